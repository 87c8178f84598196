import { PLAIN, type TurnKind, together } from "../kind";
import { SumSettings } from "../settings/Amounts";

export const sum: TurnKind<"sum"> = {
  ...PLAIN,
  title: "Sum",
  words: ["add", "mix", "blend"],
  offers: (chosen) => {
    const { clips, names } = chosen;
    const label = `${names}: the second upside down, to hear what is left`;
    const difference = together(chosen, { kind: "sum", flip: [2] }, label);
    return [
      together(chosen, { kind: "sum" }, `add ${names}`),
      {
        ...difference,
        name: "null",
        words: ["difference", "cancel", "compare", "test"],
        refused: clips.length > 2 ? "takes two clips" : difference.refused,
      },
    ];
  },
  Settings: SumSettings,
  why: "polarity",
};
