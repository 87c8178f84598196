import { DEFAULT_KIND, forEach, type TurnKind } from "../kind";

export const swap: TurnKind<"swap"> = {
  ...DEFAULT_KIND,
  title: "Swap left and right",
  words: ["exchange", "reverse", "mirror"],
  offers: (chosen) => [forEach(chosen, "swap", `swap left and right of ${chosen.names}`)],
  Settings: null,
  guide: "swap",
  why: null,
};
