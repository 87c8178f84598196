import { newStep, PLAIN, type TurnKind } from "../kind";
import { SumSettings } from "../settings/Amounts";

export const sum: TurnKind<"sum"> = {
  ...PLAIN,
  title: "Sum",
  words: ["add", "mix", "blend"],
  offers: ({ clips, names, alike }) => [
    {
      kind: "sum",
      label: `add ${names}`,
      steps: [newStep({ kind: "sum" }, clips)],
      refused: alike ? null : "choose two files or more of the same channels first",
    },
    {
      kind: "sum",
      name: "null",
      words: ["difference", "cancel", "compare", "test"],
      label: `${names}: the second upside down, to hear what is left`,
      steps: [newStep({ kind: "sum", flip: [2] }, clips)],
      refused: alike && clips.length === 2 ? null : "choose two files of the same channels first",
    },
  ],
  Settings: SumSettings,
  why: "polarity",
};
