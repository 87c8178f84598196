/** What the list of files and the panel of one can do with them; the workbench does it. */
import type { Job, NewStep } from "../../api/client";
import type { Edit } from "../../model/edits";
import type { FileFilter } from "./rows";

export type FileActions = {
  chooseFiles: (refs: readonly string[]) => void;
  filter: (change: Partial<FileFilter>) => void;
  add: (steps: NewStep[]) => Promise<void>;
  archive: (refs: readonly string[], archived: boolean) => void;
  archiveChosen: () => void;
  /** Make an edit, and tell what went wrong with it. */
  do: (edit: Edit) => void;
  /** Make an edit; rejects where it could not be made. */
  edit: (edit: Edit) => Promise<Job>;
  startCopy: (copied: { sources: string[]; steps: string[] }) => void;
};
