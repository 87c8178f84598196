import { DEFAULT_KIND, offerAtEachRate, type TurnKind, together } from "../kind";
import { SumSettings } from "../settings/Amounts";

export const sum: TurnKind<"sum"> = {
  ...DEFAULT_KIND,
  title: "Sum",
  words: ["add", "mix", "blend"],
  offers: (chosen) => {
    const { clips, names } = chosen;
    const label = `null test: invert the second of ${names} and sum`;
    const difference = together(chosen, { kind: "sum", flip: [2] }, label);
    const nullTest = {
      ...difference,
      name: "null",
      words: ["difference", "cancel", "compare", "test"],
      refused: clips.length > 2 ? "needs two clips" : difference.refused,
    };
    return [together(chosen, { kind: "sum" }, `sum ${names}`), nullTest].flatMap((offer) =>
      offerAtEachRate(chosen, offer),
    );
  },
  Settings: SumSettings,
  guide: "null",
  why: "polarity",
};
