import { forEach, PLAIN, type TurnKind } from "../kind";
import { FoldSettings } from "../settings/Fold";

export const fold: TurnKind<"fold"> = {
  ...PLAIN,
  title: "Fold to mono",
  words: ["mono", "sum", "downmix", "left", "right", "blend"],
  offers: (chosen) => [forEach(chosen, "fold", `${chosen.names} into mono: a side, the sum, a blend`)],
  Settings: FoldSettings,
  why: "summing",
};
