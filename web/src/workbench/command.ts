/** What a command of a job's page is. */
import type { WorkbenchStore } from "./store";

export const SECTIONS = [
  "Everywhere",
  "Worksheet",
  "Lists",
  "Questions",
  "View and listen",
  "Hushes",
] as const;

export type Command = {
  section: (typeof SECTIONS)[number];
  /** As the key sheet says it. */
  title: string;
  /** "Ctrl+Shift+z", "?", "Space": Ctrl stands for Cmd too; Shift is named only with letters and named keys. */
  keys: readonly string[];
  /** How the keys are written, where that is shorter. */
  shown?: string;
  /** In every view of the job; the others belong to the worksheet's. */
  everywhere?: true;
  /** As the menu of the lines says it; `lines` is " 3 lines" where several are selected, and empty of one. */
  menu?: (lines: string, bench: WorkbenchStore) => string;
  /** Again and again while the key is held. */
  repeats?: true;
  /** Where it can't be used, its key does nothing, and its place in a menu is grey. */
  when?: (bench: WorkbenchStore) => boolean;
  /** Missing where the keys belong to the list, or the hush, that has the focus. */
  run?: (bench: WorkbenchStore) => void;
};

/** Rows by id, each of them whole. */
export const table = <Id extends string>(rows: Record<Id, Command>): Record<Id, Command> => rows;
