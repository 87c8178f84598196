import { DEFAULT_KIND, forEach, type TurnKind } from "../kind";
import { AlignSettings } from "../settings/Align";

export const align: TurnKind<"align"> = {
  ...DEFAULT_KIND,
  title: "Align",
  words: ["delay", "late", "time", "shift", "sync"],
  offers: (chosen) => [
    forEach(chosen, "align", `delay one channel of ${chosen.names} against the other`, ({ channels }) => ({
      kind: "align",
      delay: Array(channels).fill(0),
    })),
  ],
  Settings: AlignSettings,
  guide: "two-microphones",
  why: null,
};
