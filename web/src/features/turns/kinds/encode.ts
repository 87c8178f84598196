import { DEFAULT_KIND, forEach, type TurnKind } from "../kind";
import { EncodeSettings } from "../settings/MidSide";

export const encode: TurnKind<"encode"> = {
  ...DEFAULT_KIND,
  title: "Encode to M/S",
  words: ["m/s", "ms", "mid", "side"],
  offers: (chosen) => [forEach(chosen, "encode", `encode ${chosen.names} to M/S`)],
  Settings: EncodeSettings,
  axes: () => ({ before: "left-right", after: "mid-side" }),
  guide: "mid-side",
  why: "mid-side",
};
