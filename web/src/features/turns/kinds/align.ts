import { forEach, PLAIN, type TurnKind } from "../kind";
import { AlignSettings } from "../settings/Amounts";

export const align: TurnKind<"align"> = {
  ...PLAIN,
  title: "Align",
  words: ["delay", "late", "time", "shift", "sync"],
  offers: (chosen) => [
    forEach(
      chosen,
      { kind: "align" },
      chosen.stereo,
      "a stereo file",
      `move the sides of ${chosen.names} against each other`,
    ),
  ],
  Settings: AlignSettings,
  why: null,
};
