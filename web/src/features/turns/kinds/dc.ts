import { DEFAULT_KIND, forEach, type TurnKind } from "../kind";
import { DcSettings } from "../settings/Amounts";

export const dc: TurnKind<"dc"> = {
  ...DEFAULT_KIND,
  title: "Remove DC",
  words: ["remove dc", "offset", "direct current"],
  offers: (chosen) => [forEach(chosen, "dc", `remove the DC offset of ${chosen.names}`)],
  Settings: DcSettings,
  why: null,
};
