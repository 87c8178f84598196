import { type Chosen, DEFAULT_KIND, forEach, offerAs, type TurnKind } from "../kind";
import { foldHandles } from "../planeHandles";
import { FoldSettings } from "../settings/Fold";

const offerChannel = (chosen: Chosen, channel: "left" | "right" | "sum", label: string) =>
  forEach(chosen, "fold", label, () => ({ kind: "fold", take: channel }));

export const fold: TurnKind<"fold"> = {
  ...DEFAULT_KIND,
  title: "Fold to mono",
  words: ["mono", "sum", "downmix", "left", "right", "only", "blend"],
  offers: (chosen) => [
    forEach(chosen, "fold", `fold ${chosen.names} to mono (one channel, sum or blend)`),
    ...offerAs(
      "left only",
      ["only"],
      offerChannel(chosen, "left", `the left channel of ${chosen.names}, mono`),
    ),
    ...offerAs(
      "right only",
      ["only"],
      offerChannel(chosen, "right", `the right channel of ${chosen.names}, mono`),
    ),
    ...offerAs("mono sum", ["sum"], offerChannel(chosen, "sum", `left + right of ${chosen.names}, mono`)),
  ],
  Settings: FoldSettings,
  handles: foldHandles,
  guide: "mono",
  why: "summing",
};
