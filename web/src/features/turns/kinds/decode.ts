import { accepts, DEFAULT_KIND, forEach, forGroups, offerAtEachRate, type TurnKind, together } from "../kind";
import { decodeHandles } from "../planeHandles";
import { DecodeSettings } from "../settings/MidSide";

export const decode: TurnKind<"decode"> = {
  ...DEFAULT_KIND,
  title: "Decode M/S",
  words: ["m/s", "ms", "mid", "side"],
  offers: (chosen) => {
    const { clips, names } = chosen;
    const byName = forGroups(chosen, "decode", "pair");
    if (byName) return [byName];
    if (clips.length === 2 && accepts("decode", clips))
      return offerAtEachRate(chosen, together(chosen, { kind: "decode" }, `decode ${names} as M/S`));
    return [forEach(chosen, "decode", `decode ${names} as M/S`)];
  },
  Settings: DecodeSettings,
  axes: () => ({ before: "mid-side", after: "left-right" }),
  handles: decodeHandles,
  guide: "mid-side",
  why: "mid-side",
};
