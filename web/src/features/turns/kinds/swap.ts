import { forEach, PLAIN, type TurnKind } from "../kind";

export const swap: TurnKind<"swap"> = {
  ...PLAIN,
  title: "Swap left and right",
  words: ["exchange", "reverse", "mirror"],
  offers: (chosen) => [forEach(chosen, "swap", `swap left and right of ${chosen.names}`)],
  Settings: null,
  guide: "swap",
  why: null,
};
