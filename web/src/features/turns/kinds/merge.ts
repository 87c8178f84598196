import { count } from "../../../shared/format";
import { DEFAULT_KIND, forGroups, offerAtEachRate, type TurnKind, together } from "../kind";
import { MergeSettings } from "../settings/Merge";

const LAYOUTS: Record<number, string> = { 2: "one stereo file", 4: "quad", 5: "5.0", 6: "5.1", 8: "7.1" };

export const merge: TurnKind<"merge"> = {
  ...DEFAULT_KIND,
  title: "Merge",
  words: ["join", "combine", "interleave", "stereo", "quad", "surround", "layout"],
  offers: (chosen) => {
    const { names } = chosen;
    const { length } = chosen.clips;
    const into = LAYOUTS[length] ?? count(length, "channel");
    const groups = forGroups(chosen, "merge", "group");
    if (groups) return [groups];
    return offerAtEachRate(chosen, together(chosen, { kind: "merge" }, `merge ${names} into ${into}`));
  },
  Settings: MergeSettings,
  // Where the names don't say which is left, the order of choosing does; the line then says so and can be exchanged.
  fallback: (turn, code) => (code === "side-unknown" ? { ...turn, order: "given" } : null),
  guide: "merge",
  why: null,
};
