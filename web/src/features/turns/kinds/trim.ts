import { forEach, PLAIN, type TurnKind } from "../kind";
import { framesOf, trimTo } from "../places";
import { TrimSettings } from "../settings/Trim";

export const trim: TurnKind<"trim"> = {
  ...PLAIN,
  title: "Trim",
  words: ["cut", "crop", "range", "shorten", "part"],
  offers: (chosen) => {
    const { range, names } = chosen;
    const label = range ? `trim ${names} to the selected range` : `trim ${names}`;
    return [forEach(chosen, "trim", label, (clip) => (range ? trimTo(range, clip) : { kind: "trim" }))];
  },
  Settings: TrimSettings,
  lanes: (step, turn) => {
    const [out] = step.outputs;
    return { ...PLAIN.lanes(step), later: out ? framesOf(turn.start, out) : 0 };
  },
  figure: "none",
  why: null,
};
