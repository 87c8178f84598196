/** What every panel of settings is given. */
import type { Step, Turn } from "../../../api/client";

export type Change = { turn?: Turn; inputs?: string[]; names?: string[] };
export type Of<K extends Turn["kind"]> = Extract<Turn, { kind: K }>;
export type SettingsProps<K extends Turn["kind"]> = {
  step: Step;
  turn: Of<K>;
  names: Map<string, string>;
  onChange: (change: Change) => void;
};
