import { count } from "../../../shared/format";
import { forGroups, newStep, PLAIN, type TurnKind } from "../kind";
import { MergeSettings } from "../settings/Merge";

const LAYOUTS: Record<number, string> = { 2: "one stereo file", 4: "quad", 5: "5.0", 6: "5.1", 8: "7.1" };

export const merge: TurnKind<"merge"> = {
  ...PLAIN,
  title: "Merge",
  words: ["join", "combine", "interleave", "stereo", "quad", "surround", "layout"],
  offers: (chosen) => {
    const { clips, mono, names } = chosen;
    return [
      forGroups(chosen, "merge", "group") ?? {
        kind: "merge",
        label: `merge ${names} into ${LAYOUTS[mono.length] ?? count(mono.length, "channel")}`,
        steps: [newStep({ kind: "merge" }, mono)],
        refused:
          mono.length >= 2 && mono.length === clips.length ? null : "choose two mono files or more first",
      },
    ];
  },
  Settings: MergeSettings,
  why: null,
};
