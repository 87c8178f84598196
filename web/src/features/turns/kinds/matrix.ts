import { DEFAULT_KIND, forEach, type TurnKind } from "../kind";
import { matrixHandles } from "../planeHandles";
import { MatrixSettings } from "../settings/Matrix";

export const matrix: TurnKind<"matrix"> = {
  ...DEFAULT_KIND,
  title: "2×2 matrix",
  words: ["mix", "pan", "balance"],
  offers: (chosen) => [forEach(chosen, "matrix", `any 2×2 mix of L and R of ${chosen.names}`)],
  Settings: MatrixSettings,
  handles: matrixHandles,
  why: null,
};
