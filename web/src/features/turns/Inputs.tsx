/** What goes into a line, chosen anew: any file, or what an earlier line makes. */
import { Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { Clip, Step } from "../../api/client";
import { FieldGroup, Select } from "../../shared/fields";
import { SecondaryButton } from "../../shared/parts";
import { accepts } from "./kind";
import type { Change } from "./settings/common";

type Props = {
  step: Step;
  names: Map<string, string>;
  /** Clips that come before the line. */
  choices: () => Clip[];
  onChange: (change: Change) => void;
};

export function Inputs({ step, names, choices, onChange }: Props) {
  const [open, setOpen] = useState(false);
  if (!open && step.waits_for === null)
    return (
      <Flex>
        <SecondaryButton onClick={() => setOpen(true)}>
          {step.inputs.length > 1 ? "Change inputs…" : "Change input…"}
        </SecondaryButton>
      </Flex>
    );
  const clips = choices();
  const byRef = new Map(clips.map((clip) => [clip.ref, clip]));
  return (
    <FieldGroup label={step.inputs.length > 1 ? "Inputs" : "Input"}>
      {step.inputs.map((ref, n) => {
        const fits = clips.filter((clip) => accepts(step.turn.kind, withInput(step, n, clip, byRef)));
        const offered = fits.some((clip) => clip.ref === ref)
          ? fits
          : [{ ref, name: names.get(ref) ?? "" }, ...fits];
        return (
          <Select
            // biome-ignore lint/suspicious/noArrayIndexKey: an input is known by its place.
            key={n}
            label={`Input ${n + 1}`}
            value={ref}
            options={offered.map((clip) => [clip.ref, labelOf(clip, ref, step)] as const)}
            onChange={(other) => onChange({ inputs: step.inputs.map((one, m) => (m === n ? other : one)) })}
          />
        );
      })}
      {step.waits_for !== null && clips.length === 0 && (
        <Text layerStyle="quiet">No other file fits. Add one.</Text>
      )}
    </FieldGroup>
  );
}

const labelOf = ({ ref, name }: { ref: string; name: string }, current: string, step: Step) =>
  ref === current && step.waits_for !== null && ref.startsWith("lost:") ? `${name} (missing)` : name;

/** The clips of a line with another one at one place; those that are missing are taken to be like it. */
const withInput = (step: Step, at: number, clip: Clip, byRef: Map<string, Clip>) =>
  step.inputs.map((ref, n) => (n === at ? clip : (byRef.get(ref) ?? clip)));
