/** From where to where, as fields that take time, seconds or samples. */
import { Committed } from "./Committed";
import { Field } from "./fields";
import { framesOf, noTime, type Place, placeIn, placeText } from "./places";
import type { Timed } from "./timeCode";

type Ends = { start: Place; end: Place };
type Props = {
  range: Ends;
  /** What its places lie in. */
  clip: Timed & { frames: number };
  /** Times of day: an end before the start is on the next day. */
  ofDay?: boolean;
  onChange: (ends: Partial<Ends>) => void;
};

export function RangeFields({ range, clip, ofDay = false, onChange }: Props) {
  const refuse = (edge: keyof Ends) => (text: string) => {
    const place = placeIn(text, clip, ofDay);
    if (place === null || (edge === "start" && place === "end")) return noTime(text, clip, ofDay);
    const next = { ...range, [edge]: place };
    const [start, end] = [framesOf(next.start, clip), framesOf(next.end, clip)];
    return start < end || (ofDay && start > end) ? null : "The end must be after the start.";
  };
  const field = (edge: keyof Ends, label: string) => (
    <Field label={label}>
      <Committed
        label={`Range ${label.toLowerCase()}`}
        value={placeText(range[edge], clip.rate)}
        refuse={refuse(edge)}
        onCommit={(text) => onChange({ [edge]: placeIn(text, clip, ofDay) ?? range[edge] })}
      />
    </Field>
  );
  return (
    <>
      {field("start", "From")}
      {field("end", "To")}
    </>
  );
}
