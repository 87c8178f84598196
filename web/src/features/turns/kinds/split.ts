import { splitsMidSide } from "../../../api/turns";
import { DEFAULT_KIND, forEach, type TurnKind } from "../kind";
import { SplitSettings } from "../settings/Split";

export const split: TurnKind<"split"> = {
  ...DEFAULT_KIND,
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
