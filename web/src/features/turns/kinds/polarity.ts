import { DEFAULT_KIND, forEach, type TurnKind } from "../kind";
import { polarityHandles } from "../planeHandles";
import { PolaritySettings } from "../settings/Polarity";

export const polarity: TurnKind<"polarity"> = {
  ...DEFAULT_KIND,
  title: "Invert polarity",
  words: ["flip", "invert", "phase", "inverted"],
  offers: (chosen) => [forEach(chosen, "polarity", `invert the polarity of a channel of ${chosen.names}`)],
  Settings: PolaritySettings,
  handles: polarityHandles,
  guide: "polarity",
  why: "polarity",
};
