import { inTime, type SelectedRange, trimTo } from "../../../shared/places";
import { DEFAULT_KIND, forEach, type TurnKind } from "../kind";
import { TrimSettings } from "../settings/Trim";

export const trim: TurnKind<"trim"> = {
  ...DEFAULT_KIND,
  title: "Trim",
  words: ["cut", "crop", "range", "shorten", "part"],
  offers: (chosen) => {
    const { range, names } = chosen;
    if (!range) return [forEach(chosen, "trim", `trim ${names}`)];
    const label = `trim ${names} to the selected range`;
    const offers = [forEach(chosen, "trim", label, (clip) => trimTo(range, clip))];
    const recorded = chosen.clips.length > 1 && recordedTrim(range);
    if (recorded && chosen.clips.every((clip) => clip.start_time !== null))
      offers.push(forEach(chosen, "trim", `${label} in recorded time`, () => recorded));
    return offers;
  },
  Settings: TrimSettings,
  lanes: (step) => {
    return { ...DEFAULT_KIND.lanes(step), later: step.begins_at };
  },
  figure: "none",
  guide: "range",
  why: null,
};

/** The time of day that a range was recorded at, for files which began at different times. */
function recordedTrim(range: SelectedRange) {
  const { rate, startTime } = range;
  if (startTime === null) return null;
  return inTime({ ...trimTo(range, { rate }), time: "file" }, "recorded", { rate, startTime });
}
