import { type Chosen, DEFAULT_KIND, forEach, offerAs, type TurnKind } from "../kind";
import { polarityHandles } from "../planeHandles";
import { PolaritySettings } from "../settings/Polarity";

const offerInverted = (chosen: Chosen, channel: "left" | "right") =>
  forEach(chosen, "polarity", `invert the ${channel} channel of ${chosen.names}`, () => ({
    kind: "polarity",
    channels: channel,
  }));

export const polarity: TurnKind<"polarity"> = {
  ...DEFAULT_KIND,
  title: "Invert polarity",
  words: ["flip", "invert", "phase", "inverted", "left", "right"],
  offers: (chosen) => [
    forEach(chosen, "polarity", `invert the polarity of a channel of ${chosen.names}`),
    ...offerAs("invert left", ["flip", "phase", "polarity"], offerInverted(chosen, "left")),
    ...offerAs("invert right", ["flip", "phase", "polarity"], offerInverted(chosen, "right")),
  ],
  Settings: PolaritySettings,
  handles: polarityHandles,
  guide: "polarity",
  why: "polarity",
};
