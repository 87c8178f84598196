import { splitsMidSide } from "../../../api/turns";
import { forEach, PLAIN, type TurnKind } from "../kind";
import { SplitSettings } from "../settings/Split";

export const split: TurnKind<"split"> = {
  ...PLAIN,
  title: "Split channels",
  words: ["channels", "separate", "dual"],
  offers: (chosen) => [forEach(chosen, "split", `split ${chosen.names} to mono files`)],
  Settings: SplitSettings,
  axes: (step) => {
    const axes = splitsMidSide(step) ? "mid-side" : "left-right";
    return { before: axes, after: axes };
  },
  figure: "side by side",
  guide: "split",
  why: null,
};
