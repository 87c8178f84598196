/**
 * Every command of a job's page, one row each: what it is called, its keys, when it can be used, and what it does. Keys,
 * the key sheet, menus, tips and texts are made from this table.
 */
import { writeKeys } from "../shared/keys";
import { type Command, table } from "./command";
import { LISTEN_COMMANDS } from "./listenCommands";
import type { WorkbenchStore } from "./store";

const hasQuestion = (bench: WorkbenchStore) => bench.question !== null;
const lineChosen = (bench: WorkbenchStore) => bench.step !== null && bench.state.preview === null;
const oneChosen = (bench: WorkbenchStore) => lineChosen(bench) && bench.selected.length === 1;

export const COMMANDS = table({
  undo: {
    section: "Everywhere",
    title: "undo",
    keys: ["Ctrl+z"],
    everywhere: true,
    repeats: true,
    when: (bench) => bench.state.job.can_undo || bench.state.changing,
    run: (bench) => bench.undo(),
  },
  redo: {
    section: "Everywhere",
    title: "redo",
    keys: ["Ctrl+Shift+z", "Ctrl+y"],
    shown: writeKeys(["Ctrl+Shift+z"]),
    everywhere: true,
    repeats: true,
    when: (bench) => bench.state.job.can_redo || bench.worksheet.isUndoing,
    run: (bench) => bench.redo(),
  },
  deliver: {
    section: "Everywhere",
    title: "review and deliver",
    keys: ["d"],
    everywhere: true,
    run: (bench) => bench.goTo("delivery"),
  },
  deliverAll: {
    section: "Everywhere",
    title: "deliver everything with the last settings",
    keys: ["Shift+d"],
    everywhere: true,
    when: (bench) => bench.state.job.ends.length > 0,
    run: (bench) => void bench.deliverAll(),
  },
  showKeys: {
    section: "Everywhere",
    title: "show this list",
    keys: ["?"],
    everywhere: true,
    run: (bench) => bench.openDialog("keys"),
  },
  filterFiles: {
    section: "Everywhere",
    title: "filter the sources",
    keys: ["/"],
    run: (bench) => bench.focus.focusField("filter"),
  },
  addTurn: {
    section: "Worksheet",
    title: "add a turn: type its name",
    keys: ["t"],
    when: (bench) => bench.state.preview?.kind !== "question",
    run: (bench) => bench.focus.focusField("turn"),
  },
  download: {
    section: "Worksheet",
    menu: (lines) => (lines ? `Download${lines}` : "Download"),
    title: "deliver the line alone and download it",
    keys: ["Shift+s"],
    when: lineChosen,
    run: (bench) => void bench.download(bench.selected),
  },
  insertBefore: {
    section: "Worksheet",
    menu: () => "Insert before…",
    title: "insert a turn before the line",
    keys: ["i"],
    when: oneChosen,
    run: (bench) => bench.insert("before"),
  },
  insertAfter: {
    section: "Worksheet",
    menu: () => "Insert after…",
    title: "insert a turn after the line",
    keys: ["Shift+i"],
    when: oneChosen,
    run: (bench) => bench.insert("after"),
  },
  bypass: {
    section: "Worksheet",
    menu: (lines, { bypassed }) => `${bypassed ? "Enable" : "Bypass"}${lines}`,
    title: "bypass or enable the line",
    keys: ["b"],
    when: (bench) =>
      lineChosen(bench) && (bench.bypassed || bench.everySelected(({ one_to_one }) => one_to_one)),
    run: (bench) => bench.toggleBypass(),
  },
  duplicate: {
    section: "Worksheet",
    menu: (lines) => `Duplicate${lines}`,
    title: "duplicate the line",
    keys: [],
    when: lineChosen,
    run: (bench) => bench.editLines("duplicate"),
  },
  moveUp: {
    section: "Worksheet",
    menu: (lines) => `Move${lines} up`,
    title: "move up one line",
    keys: ["Alt+ArrowUp"],
    when: lineChosen,
    run: (bench) => bench.move(-1),
  },
  moveDown: {
    section: "Worksheet",
    menu: (lines) => `Move${lines} down`,
    title: "move down one line",
    keys: ["Alt+ArrowDown"],
    when: lineChosen,
    run: (bench) => bench.move(1),
  },
  saveRecipe: {
    section: "Worksheet",
    menu: () => "Save as recipe…",
    title: "save the lines as a recipe",
    keys: [],
    when: (bench) => lineChosen(bench) && bench.everySelected(({ waits_for }) => waits_for === null),
    run: (bench) => bench.openDialog("recipe"),
  },
  copyLines: {
    section: "Worksheet",
    menu: (lines) => `Copy${lines} to another job…`,
    title: "copy the lines to another job",
    keys: [],
    when: (bench) => lineChosen(bench) && bench.everySelected(({ waits_for }) => waits_for === null),
    run: (bench) => bench.startCopy({ sources: [], steps: bench.selected }),
  },
  remove: {
    section: "Worksheet",
    menu: (lines) => `Remove${lines}`,
    title: "remove the turn, archive the files",
    keys: ["Delete"],
    when: (bench) => bench.state.preview === null,
    run: (bench) => bench.remove(),
  },
  selectRow: { section: "Lists", title: "select a row", keys: ["ArrowUp", "ArrowDown"], shown: "↑ ↓" },
  extendRows: {
    section: "Lists",
    title: "extend the selection",
    keys: ["Shift+ArrowUp"],
    shown: "Shift ↑ ↓",
  },
  walkRows: {
    section: "Lists",
    title: "go to a row, and leave the selection",
    keys: ["Ctrl+ArrowUp"],
    shown: `${writeKeys(["Ctrl+ArrowUp"])} ↓`,
  },
  toggleRow: {
    section: "Lists",
    title: "add that row to the selection, or take it out",
    keys: ["Ctrl+Space"],
  },
  endRows: {
    section: "Lists",
    title: "jump to the first or last row",
    keys: ["Home", "End"],
    shown: "Home End",
  },
  selectAll: { section: "Lists", title: "select all", keys: ["Ctrl+a"] },
  typeAhead: {
    section: "Lists",
    title: "jump to a name, while single-key shortcuts are off",
    keys: ["letters"],
  },
  takeOffer: { section: "Lists", title: "apply the suggested turn", keys: ["Enter"] },
  takeAnswer: {
    section: "Questions",
    title: "take the suggested turn",
    keys: ["y"],
    when: hasQuestion,
    run: (bench) => bench.previews.takeAnswer(),
  },
  dismiss: {
    section: "Questions",
    title: "dismiss the question",
    keys: ["n"],
    when: hasQuestion,
    run: (bench) => bench.previews.dismissQuestion(),
  },
  undoAnswer: {
    section: "Questions",
    title: "undo the last answer",
    keys: ["z"],
    when: (bench) => bench.state.preview?.kind === "question",
    run: (bench) => bench.previews.undoAnswer(),
  },
  ...LISTEN_COMMANDS,
});

export type CommandId = keyof typeof COMMANDS;

export const commands = Object.entries(COMMANDS) as [CommandId, Command][];

/** The keys of a command as they are written. Throws for one that is not in the table. */
export function keysOf(id: string): string {
  const command = (COMMANDS as Record<string, Command>)[id];
  if (!command) throw new Error(`There is no command ${id}`);
  return command.shown ?? writeKeys(command.keys);
}
