import { forEach, PLAIN, type TurnKind } from "../kind";

export const swap: TurnKind<"swap"> = {
  ...PLAIN,
  title: "Swap the sides",
  words: ["exchange", "reverse", "mirror"],
  offers: (chosen) => [
    forEach(
      chosen,
      { kind: "swap" },
      chosen.stereo,
      "a stereo file",
      `left and right of ${chosen.names} change places`,
    ),
  ],
  Settings: null,
  why: null,
};
