/** The selected turn: what it does, its few settings, what was noticed, and its proof. */

import { Box, Flex, Text } from "@chakra-ui/react";
import { Check } from "lucide-react";
import type { ReactNode } from "react";
import { Link } from "react-router";
import type { Clip, FileFinding, NewStep, Step } from "../../api/client";
import { stepOf } from "../../api/turns";
import { Committed } from "../../shared/Committed";
import { FieldGroup } from "../../shared/fields";
import { depth } from "../../shared/format";
import { GuideLink } from "../../shared/GuideLink";
import { AsidePane, PaneTitle, QuietButton, SecondaryButton } from "../../shared/parts";
import { BeforeAfter } from "./BeforeAfter";
import { Inputs } from "./Inputs";
import { kindOf } from "./kinds";
import { OverRange } from "./OverRange";
import { Plane } from "./Plane";
import type { Change } from "./settings/common";
import { useOutputMeasures } from "./useInputMeasures";

type Props = {
  step: Step;
  names: Map<string, string>;
  /** Clips that can go into it. */
  choices: () => Clip[];
  /** What can be done with the lines that are selected. */
  menu: ReactNode;
  onChange: (change: Change) => void;
  onSteps: (steps: NewStep[]) => void;
};

export function TurnPanel({ step, names, choices, menu, onChange, onSteps }: Props) {
  const { title, why, guide, figure, lanes, Settings } = kindOf(step.turn);
  // Of one thing that comes out, what there is to know about it as about any file.
  const out = useOutputMeasures(step, lanes(step, step.turn).out).data;
  const known = new Set(step.findings.map((finding) => finding.code));
  const findings = [
    ...step.findings,
    ...(step.outputs.length === 1 ? (out?.findings ?? []).filter((finding) => !known.has(finding.code)) : []),
  ];
  return (
    <AsidePane label="Settings">
      <PaneTitle
        right={
          <Flex>
            {why && (
              <QuietButton asChild>
                <Link to={`/why/${why}`}>Background</Link>
              </QuietButton>
            )}
            {menu}
          </Flex>
        }
      >
        {title}
      </PaneTitle>
      {figure !== "none" && step.waits_for === null && <Plane step={step} onChange={onChange} />}
      <Text layerStyle={step.waits_for === null ? "plain" : "warning"}>{step.sentence}</Text>
      {step.waits_for === null && <ProofLine step={step} />}
      {step.reason && <Text layerStyle="note">Why: {step.reason}</Text>}
      {Settings && <Settings step={step} turn={step.turn} names={names} onChange={onChange} />}
      <Inputs key={step.id} step={step} names={names} choices={choices} onChange={onChange} />
      {step.takes_place && <OverRange key={`range ${step.id}`} step={step} onChange={onChange} />}
      <ResultNames names={step.outputs.map((clip) => clip.name)} onChange={onChange} />
      {step.waits_for === null && <BeforeAfter step={step} />}
      {findings.map((finding) => (
        <FindingNote key={finding.code} finding={finding} step={step} onSteps={onSteps} />
      ))}
      {guide && (
        <Text textStyle="small">
          <GuideLink page={guide}>Guide</GuideLink>
        </Text>
      )}
    </AsidePane>
  );
}

function ResultNames({ names, onChange }: { names: string[]; onChange: (change: Change) => void }) {
  if (names.length === 0 || names.length > 2) return null;
  return (
    <FieldGroup label={names.length > 1 ? "Output names" : "Output name"}>
      {names.map((name, n) => (
        <Committed
          // biome-ignore lint/suspicious/noArrayIndexKey: a result is known by its place.
          key={n}
          label={`Output name ${n + 1}`}
          value={name}
          onCommit={(text) => onChange({ names: names.map((one, m) => (m === n ? text : one)) })}
        />
      ))}
    </FieldGroup>
  );
}

/** What was noticed about what comes out, and the turn that would deal with it as the next line. */
function FindingNote({
  finding,
  step,
  onSteps,
}: {
  finding: FileFinding;
  step: Step;
  onSteps: Props["onSteps"];
}) {
  const { remedy } = finding;
  const [out] = step.outputs;
  return (
    <Box layerStyle="callout" data-testid={`finding-${finding.code}`}>
      <Text>{finding.message}</Text>
      {remedy && out && (
        <SecondaryButton mt={2} onClick={() => onSteps([stepOf(remedy, [out.ref])])}>
          {remedy.label}
        </SecondaryButton>
      )}
    </Box>
  );
}

/** In a line: before a delivery what the turn claims, after it what was measured on the written files. */
function ProofLine({ step: { proof, exact, comes_back, outputs } }: { step: Step }) {
  const [first] = outputs;
  if (proof)
    return (
      <Box data-testid="proof" title="Measured on the written files">
        <Flex textStyle="strong" align="center" gap={1} layerStyle={proof.exact ? "ok" : "plain"}>
          <Check size={14} aria-hidden />
          {proof.exact ? "Bit-identical" : "Proved, rounded"} ({proof.depth || `${proof.bits}-bit`})
        </Flex>
        <Text layerStyle="note">{proof.statement}</Text>
      </Box>
    );
  return (
    <Text
      data-testid="proof"
      title={
        comes_back
          ? "The written files are converted back and compared with the originals."
          : "The written files are compared with what is computed again from the sources."
      }
    >
      <Text textStyle="strong" as="span">
        {exact ? `Bit-exact${first ? ` (${depth(first.depth)})` : ""}` : "Not bit-exact"}
      </Text>
      <Text layerStyle="quiet" as="span">
        , verified on delivery
      </Text>
    </Text>
  );
}
