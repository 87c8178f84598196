import { accepts, forEach, forGroups, PLAIN, type TurnKind, together } from "../kind";
import { DecodeSettings } from "../settings/MidSide";

export const decode: TurnKind<"decode"> = {
  ...PLAIN,
  title: "Decode mid and side",
  words: ["m/s", "ms", "mid", "side"],
  offers: (chosen) => {
    const { clips, names } = chosen;
    const byName = forGroups(chosen, "decode", "pair");
    if (byName) return [byName];
    if (clips.length === 2 && accepts("decode", clips))
      return [together(chosen, { kind: "decode" }, `${names} are mid and side`)];
    return [forEach(chosen, "decode", `${names} holds mid and side`)];
  },
  Settings: DecodeSettings,
  axes: () => ({ before: "mid-side", after: "left-right" }),
  why: "mid-side",
};
