import { DEFAULT_KIND, forEach, type TurnKind } from "../kind";
import { levelHandles } from "../planeHandles";
import { LevelSettings } from "../settings/Amounts";

export const level: TurnKind<"level"> = {
  ...DEFAULT_KIND,
  title: "Level",
  words: ["gain", "volume", "balance", "db", "loud", "hush", "mute"],
  offers: (chosen) => [forEach(chosen, "level", `change the level of ${chosen.names}`)],
  hushes: { of: (turn) => turn.hush, changed: (turn, hush) => ({ ...turn, hush }) },
  Settings: LevelSettings,
  handles: levelHandles,
  guide: "two-voices",
  why: null,
};
