import { forEach, PLAIN, type TurnKind } from "../kind";
import { MatrixSettings } from "../settings/Matrix";

export const matrix: TurnKind<"matrix"> = {
  ...PLAIN,
  title: "Mix of the sides",
  words: ["mix", "pan", "balance"],
  offers: (chosen) => [forEach(chosen, "matrix", `any mix of the sides of ${chosen.names}`)],
  Settings: MatrixSettings,
  why: null,
};
