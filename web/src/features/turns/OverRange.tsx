/** A turn over a range of its clip only: what is outside is unchanged. */
import { Flex, Text } from "@chakra-ui/react";
import { useContext, useState } from "react";
import type { Step } from "../../api/client";
import { Committed } from "../../shared/Committed";
import { Field, FieldGroup } from "../../shared/fields";
import { QuietButton, SecondaryButton } from "../../shared/parts";
import { placesOf, RANGE_FADE_MS } from "../../shared/places";
import { RangeFields } from "../../shared/RangeFields";
import { fadeIn, stepFade } from "./fades";
import type { Change } from "./settings/common";
import { Place } from "./useInputMeasures";

export function OverRange({ step, onChange }: { step: Step; onChange: (change: Change) => void }) {
  const { selected } = useContext(Place);
  const [out] = step.outputs;
  const [nothing, setNothing] = useState(false);
  const { over } = step;
  if (!out) return null;
  const take = () => {
    const range = selected();
    setNothing(!range);
    if (range) onChange({ over: { ...placesOf(range, out), fade_ms: over?.fade_ms ?? RANGE_FADE_MS } });
  };
  const hint = nothing && <Text role="alert">Select a range on the waveform first.</Text>;
  if (!over)
    return (
      <Flex direction="column" gap={2} align="start">
        <SecondaryButton onClick={take}>Limit to selection</SecondaryButton>
        {hint}
      </Flex>
    );
  return (
    <FieldGroup label="Limited to a range">
      <Flex gap={2}>
        <RangeFields range={over} clip={out} onChange={(ends) => onChange({ over: { ...over, ...ends } })} />
        <Field label="Fade (ms)">
          <Committed
            label="Fades of the range in milliseconds"
            value={String(over.fade_ms)}
            refuse={(text) => (fadeIn(text) === null ? "Enter 0 to 10,000 ms." : null)}
            onCommit={(text) => onChange({ over: { ...over, fade_ms: fadeIn(text) ?? 0 } })}
            onStep={(by, large) =>
              onChange({ over: { ...over, fade_ms: stepFade(over.fade_ms, by, large) } })
            }
          />
        </Field>
      </Flex>
      <Flex gap={2}>
        <SecondaryButton onClick={take}>Use selection</SecondaryButton>
        <QuietButton onClick={() => onChange({ over: null })}>Whole file</QuietButton>
      </Flex>
      {hint}
    </FieldGroup>
  );
}
