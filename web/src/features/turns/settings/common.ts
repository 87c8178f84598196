/** What every panel of settings is given. */
import type { Step, Turn } from "../../../api/client";
import type { Kind, Of } from "../../../api/turns";

export type Change = {
  turn?: Turn;
  inputs?: string[];
  names?: string[];
  over?: Step["over"];
  /** Changes that follow each other are undone as one where they are called alike. */
  gesture?: string;
};
export type SettingsProps<K extends Kind> = {
  step: Step;
  turn: Of<K>;
  names: Map<string, string>;
  onChange: (change: Change) => void;
};
