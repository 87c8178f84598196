import { DEFAULT_KIND, forEach, type TurnKind } from "../kind";
import { foldHandles } from "../planeHandles";
import { FoldSettings } from "../settings/Fold";

export const fold: TurnKind<"fold"> = {
  ...DEFAULT_KIND,
  title: "Fold to mono",
  words: ["mono", "sum", "downmix", "left", "right", "blend"],
  offers: (chosen) => [forEach(chosen, "fold", `${chosen.names} to mono: one channel, the sum or a blend`)],
  Settings: FoldSettings,
  handles: foldHandles,
  guide: "mono",
  why: "summing",
};
