import { useContext } from "react";
import { FieldGroup } from "../../../shared/fields";
import { duration } from "../../../shared/format";
import { Facts, OfferButton } from "../../../shared/parts";
import { Committed } from "../Committed";
import { noTime, placeIn, placeText, trimTo } from "../places";
import { Place } from "../useInputMeasures";
import type { SettingsProps } from "./common";

const refuse = (text: string) => (placeIn(text) === null ? noTime(text) : null);

export function TrimSettings({ step, turn, onChange }: SettingsProps<"trim">) {
  const { selected } = useContext(Place);
  const [out] = step.outputs;
  if (!out) return null;
  const take = () => {
    const range = selected();
    if (range) onChange({ turn: trimTo(range, out) });
  };
  return (
    <>
      <FieldGroup label="Start and end">
        <Committed
          label="Start"
          value={placeText(turn.start, out.rate)}
          refuse={(text) => (placeIn(text) === "end" ? "The start can’t be the end." : refuse(text))}
          onCommit={(text) => onChange({ turn: { ...turn, start: placeIn(text) ?? 0 } })}
        />
        <Committed
          label="End"
          value={placeText(turn.end, out.rate)}
          refuse={refuse}
          onCommit={(text) => onChange({ turn: { ...turn, end: placeIn(text) ?? "end" } })}
        />
      </FieldGroup>
      <OfferButton alignSelf="start" onClick={take}>
        trim to selected range
      </OfferButton>
      <Facts facts={[["length", duration(out.frames, out.rate)]]} />
    </>
  );
}
