/** A turn over a range of its clip only: what is outside stays as it is. */
import { Flex, Text } from "@chakra-ui/react";
import { useContext, useState } from "react";
import type { Step } from "../../api/client";
import { Field, FieldGroup } from "../../shared/fields";
import { OfferButton, QuietButton } from "../../shared/parts";
import { Committed } from "./Committed";
import { framesOf, noTime, placeIn, placesOf, placeText } from "./places";
import type { Change } from "./settings/common";
import { Place } from "./useInputMeasures";

const FADE_MS = 10;

export function OverRange({ step, onChange }: { step: Step; onChange: (change: Change) => void }) {
  const { selected } = useContext(Place);
  const [out] = step.outputs;
  const [nothing, setNothing] = useState(false);
  const { over } = step;
  if (!out) return null;
  const take = () => {
    const range = selected();
    setNothing(!range);
    if (range) onChange({ over: { ...placesOf(range, out), fade_ms: over?.fade_ms ?? FADE_MS } });
  };
  const hint = nothing && <Text role="alert">Select a range over the waveform first.</Text>;
  if (!over)
    return (
      <Flex direction="column" gap={1.5} align="start">
        <OfferButton onClick={take}>only over the selected range</OfferButton>
        {hint}
      </Flex>
    );
  const refuse = (edge: "start" | "end") => (text: string) => {
    const place = placeIn(text);
    if (place === null || (edge === "start" && place === "end")) return noTime(text);
    const next = { ...over, [edge]: place };
    return framesOf(next.start, out) < framesOf(next.end, out) ? null : "A range ends after it starts.";
  };
  return (
    <FieldGroup label="Only over a range">
      <Flex gap={2}>
        <Field label="From">
          <Committed
            label="Range from"
            value={placeText(over.start, out.rate)}
            refuse={refuse("start")}
            onCommit={(text) => onChange({ over: { ...over, start: placeIn(text) ?? over.start } })}
          />
        </Field>
        <Field label="To">
          <Committed
            label="Range to"
            value={placeText(over.end, out.rate)}
            refuse={refuse("end")}
            onCommit={(text) => onChange({ over: { ...over, end: placeIn(text) ?? over.end } })}
          />
        </Field>
        <Field label="Fades, ms">
          <Committed
            label="Fades of the range in milliseconds"
            value={String(over.fade_ms)}
            refuse={(text) =>
              /^\s*\d+(\.\d+)?\s*$/.test(text) && Number(text) <= 10_000
                ? null
                : "Enter milliseconds from 0 to 10,000."
            }
            onCommit={(text) => onChange({ over: { ...over, fade_ms: Number(text) } })}
          />
        </Field>
      </Flex>
      <Flex gap={2}>
        <OfferButton onClick={take}>the selected range</OfferButton>
        <QuietButton onClick={() => onChange({ over: null })}>all of it</QuietButton>
      </Flex>
      {hint}
    </FieldGroup>
  );
}
