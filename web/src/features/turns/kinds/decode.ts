import { forEach, forGroups, newStep, type Offer, PLAIN, type TurnKind } from "../kind";
import { DecodeSettings } from "../settings/MidSide";

export const decode: TurnKind<"decode"> = {
  ...PLAIN,
  title: "Decode mid and side",
  words: ["m/s", "ms", "mid", "side"],
  offers: (chosen): Offer[] => {
    const { clips, mono, stereo, names } = chosen;
    const byName = forGroups(chosen, "decode", "pair");
    if (byName) return [byName];
    if (mono.length === 2 && clips.length === 2)
      return [
        {
          kind: "decode",
          label: `${names} are mid and side`,
          steps: [newStep({ kind: "decode" }, mono)],
          refused: null,
        },
      ];
    const what = "mid and side: one stereo file or two mono files";
    return [forEach(chosen, { kind: "decode" }, stereo, what, `${names} holds mid and side`)];
  },
  Settings: DecodeSettings,
  axes: () => ({ before: "mid-side", after: "left-right" }),
  why: "mid-side",
};
