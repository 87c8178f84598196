import { forEach, PLAIN, type TurnKind } from "../kind";
import { trimTo } from "../places";
import { TrimSettings } from "../settings/Trim";

export const trim: TurnKind<"trim"> = {
  ...PLAIN,
  title: "Trim",
  words: ["cut", "crop", "range", "shorten", "part"],
  offers: (chosen) => {
    const { range, names } = chosen;
    const label = range ? `keep the selected range of ${names}` : `keep a part of ${names}`;
    return [forEach(chosen, "trim", label, (clip) => (range ? trimTo(range, clip) : { kind: "trim" }))];
  },
  Settings: TrimSettings,
  figure: "none",
  why: null,
};
