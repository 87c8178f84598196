import { forEach, PLAIN, type TurnKind } from "../kind";
import { LevelSettings } from "../settings/Amounts";

export const level: TurnKind<"level"> = {
  ...PLAIN,
  title: "Level",
  words: ["gain", "volume", "balance", "db", "loud"],
  offers: (chosen) => [forEach(chosen, "level", `change the level of ${chosen.names}`)],
  Settings: LevelSettings,
  why: null,
};
