import { forEach, PLAIN, type TurnKind } from "../kind";
import { PolaritySettings } from "../settings/Polarity";

export const polarity: TurnKind<"polarity"> = {
  ...PLAIN,
  title: "Turn upside down",
  words: ["flip", "invert", "phase", "inverted"],
  offers: (chosen) => [forEach(chosen, "polarity", `turn a channel of ${chosen.names} upside down`)],
  Settings: PolaritySettings,
  why: "polarity",
};
