import { forEach, PLAIN, type TurnKind } from "../kind";

export const swap: TurnKind<"swap"> = {
  ...PLAIN,
  title: "Swap the sides",
  words: ["exchange", "reverse", "mirror"],
  offers: (chosen) => [forEach(chosen, "swap", `left and right of ${chosen.names} change places`)],
  Settings: null,
  why: null,
};
