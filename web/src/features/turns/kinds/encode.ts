import { forEach, PLAIN, type TurnKind } from "../kind";
import { EncodeSettings } from "../settings/MidSide";

export const encode: TurnKind<"encode"> = {
  ...PLAIN,
  title: "Encode to mid and side",
  words: ["m/s", "ms", "mid", "side"],
  offers: (chosen) => [forEach(chosen, "encode", `${chosen.names} into mid and side`)],
  Settings: EncodeSettings,
  axes: () => ({ before: "left-right", after: "mid-side" }),
  why: "mid-side",
};
