/**
 * Every command of a job's page, one row each: what it is called, its keys, when it can be used, and what it does. Keys,
 * the key sheet, menus, tips and texts are made from this table.
 */
import { writeKeys } from "../shared/keys";
import type { Workbench } from "./store";

export const SECTIONS = [
  "Everywhere",
  "Worksheet",
  "Lists",
  "Questions",
  "View and listen",
  "Hushes",
] as const;

type Bench = Workbench;
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
  menu?: (lines: string, bench: Bench) => string;
  /** Again and again while the key is held. */
  repeats?: true;
  /** Where it can't be used, its key does nothing, and its place in a menu is grey. */
  when?: (bench: Bench) => boolean;
  /** Missing where the keys belong to the list, or the hush, that has the focus. */
  run?: (bench: Bench) => void;
};

const asked = (bench: Bench) => bench.question !== null;
const lineChosen = (bench: Bench) => bench.step !== null && bench.state.preview === null;
const oneChosen = (bench: Bench) => lineChosen(bench) && bench.selected.length === 1;
const hushed = ({ hushes }: Bench) => hushes !== null;
const scroll = (by: -1 | 1) => (bench: Bench) =>
  bench.session.look.pan((by * bench.session.store.getState().width) / 4);

/** Rows by id, each of them whole. */
const table = <Id extends string>(rows: Record<Id, Command>): Record<Id, Command> => rows;

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
    run: (bench) => bench.show("delivery"),
  },
  showKeys: {
    section: "Everywhere",
    title: "show this list",
    keys: ["?"],
    everywhere: true,
    run: (bench) => bench.open("keys"),
  },
  filterFiles: {
    section: "Everywhere",
    title: "filter the sources",
    keys: ["/"],
    run: (bench) => bench.focus("filter"),
  },
  addTurn: {
    section: "Worksheet",
    title: "add a turn: type its name",
    keys: ["t"],
    when: (bench) => bench.state.preview?.kind !== "question",
    run: (bench) => bench.focus("turn"),
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
      lineChosen(bench) && (bench.bypassed || bench.selectedAll(({ one_to_one }) => one_to_one)),
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
    when: (bench) => lineChosen(bench) && bench.selectedAll(({ waits_for }) => waits_for === null),
    run: (bench) => bench.open("recipe"),
  },
  copyLines: {
    section: "Worksheet",
    menu: (lines) => `Copy${lines} to another job…`,
    title: "copy the lines to another job",
    keys: [],
    when: (bench) => lineChosen(bench) && bench.selectedAll(({ waits_for }) => waits_for === null),
    run: (bench) => bench.copy({ sources: [], steps: bench.selected }),
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
  endRows: { section: "Lists", title: "first row, last row", keys: ["Home", "End"], shown: "Home End" },
  selectAll: { section: "Lists", title: "select all", keys: ["Ctrl+a"] },
  typeAhead: {
    section: "Lists",
    title: "go to the row of that name, while single-key shortcuts are off",
    keys: ["letters"],
  },
  takeOffer: { section: "Lists", title: "apply the suggested turn", keys: ["Enter"] },
  takeAnswer: {
    section: "Questions",
    title: "take the suggested turn",
    keys: ["y"],
    when: asked,
    run: (bench) => bench.take(),
  },
  dismiss: {
    section: "Questions",
    title: "dismiss the question",
    keys: ["n"],
    when: asked,
    run: (bench) => bench.dismiss(),
  },
  undoAnswer: {
    section: "Questions",
    title: "undo the last answer",
    keys: ["z"],
    when: (bench) => bench.state.preview?.kind === "question",
    run: (bench) => bench.undoAnswer(),
  },
  play: {
    section: "View and listen",
    title: "play, pause",
    keys: ["Space"],
    run: ({ session }) => session.toggle(),
  },
  switchSide: {
    section: "View and listen",
    title: "switch In and Out",
    keys: ["q"],
    run: ({ session }) => session.switchSide(),
  },
  stereo: {
    section: "View and listen",
    title: "stereo",
    keys: ["1"],
    run: ({ session }) => session.setMode("stereo"),
  },
  left: {
    section: "View and listen",
    title: "left only",
    keys: ["2"],
    run: ({ session }) => session.setMode("left"),
  },
  right: {
    section: "View and listen",
    title: "right only",
    keys: ["3"],
    run: ({ session }) => session.setMode("right"),
  },
  mono: {
    section: "View and listen",
    title: "mono",
    keys: ["4"],
    run: ({ session }) => session.setMode("mono"),
  },
  difference: {
    section: "View and listen",
    title: "difference L − R",
    keys: ["5"],
    run: ({ session }) => session.setMode("difference"),
  },
  inMinusOut: {
    section: "View and listen",
    title: "In − Out",
    keys: ["x"],
    run: ({ session }) => session.toggleDifference(),
  },
  levelMatch: {
    section: "View and listen",
    title: "level-match Out to In",
    keys: ["m"],
    run: ({ session }) => session.toggleMatch(),
  },
  nextView: {
    section: "View and listen",
    title: "next view",
    keys: ["v"],
    run: ({ session }) => session.look.nextPicture(),
  },
  startRange: {
    section: "View and listen",
    title: "set the start of the range",
    keys: ["["],
    run: ({ session }) => session.startRangeHere(),
  },
  endRange: {
    section: "View and listen",
    title: "set the end of the range",
    keys: ["]"],
    run: ({ session }) => session.endRangeHere(),
  },
  close: {
    section: "View and listen",
    title: "close a question or a comparison; clear the range",
    keys: ["Escape"],
    run: (bench) => (bench.state.preview ? bench.closePreview() : bench.session.select(null)),
  },
  loop: {
    section: "View and listen",
    title: "loop the range",
    keys: ["l"],
    run: ({ session }) => session.toggleLoop(),
  },
  zoomIn: {
    section: "View and listen",
    title: "zoom in",
    keys: ["+", "="],
    shown: "+",
    repeats: true,
    run: ({ session }) => session.look.zoomBy(2),
  },
  zoomOut: {
    section: "View and listen",
    title: "zoom out",
    keys: ["-"],
    repeats: true,
    run: ({ session }) => session.look.zoomBy(0.5),
  },
  fit: {
    section: "View and listen",
    title: "zoom to fit",
    keys: ["0"],
    run: ({ session }) => session.look.fit(),
  },
  fitRange: {
    section: "View and listen",
    title: "zoom to the range",
    keys: ["r"],
    run: ({ session }) => session.look.showRange(),
  },
  back: {
    section: "View and listen",
    title: "move the playhead back",
    keys: ["ArrowLeft"],
    repeats: true,
    run: ({ session }) => session.step(-1),
  },
  forward: {
    section: "View and listen",
    title: "move the playhead forward",
    keys: ["ArrowRight"],
    repeats: true,
    run: ({ session }) => session.step(1),
  },
  scrollBack: {
    section: "View and listen",
    title: "scroll back",
    keys: ["Shift+ArrowLeft"],
    repeats: true,
    run: scroll(-1),
  },
  scrollForward: {
    section: "View and listen",
    title: "scroll forward",
    keys: ["Shift+ArrowRight"],
    repeats: true,
    run: scroll(1),
  },
  taller: {
    section: "View and listen",
    title: "vertical zoom in",
    keys: ["Shift+ArrowUp"],
    repeats: true,
    run: ({ session }) => session.look.enlarge(1),
  },
  flatter: {
    section: "View and listen",
    title: "vertical zoom out",
    keys: ["Shift+ArrowDown"],
    repeats: true,
    run: ({ session }) => session.look.enlarge(-1),
  },
  toStart: {
    section: "View and listen",
    title: "to the start",
    keys: ["Home"],
    run: ({ session }) => session.seek(0),
  },
  toEnd: {
    section: "View and listen",
    title: "to the end",
    keys: ["End"],
    run: ({ session }) => session.seek(session.store.getState().frames),
  },
  drawHushes: {
    section: "Hushes",
    title: "draw hushes on the waveform; hush the selected range",
    keys: ["h"],
    when: hushed,
    run: ({ hushes }) => hushes?.onDrawing(),
  },
  splitHush: {
    section: "Hushes",
    title: "split the selected hush at the playhead",
    keys: ["s"],
    when: ({ hushes }) => hushes !== null && hushes.selected !== null,
    run: ({ hushes, session }) =>
      hushes && hushes.selected !== null && hushes.onSplit(hushes.selected, session.player.position),
  },
  takeHushes: {
    section: "Hushes",
    title: "take all suggested hushes",
    keys: ["a"],
    when: ({ hushes }) => hushes !== null && hushes.proposals.length > 0,
    run: ({ hushes }) => hushes?.onTake(hushes.proposals.map((_, n) => n)),
  },
  moveHush: {
    section: "Hushes",
    title: "move the hush, or its end, that has the focus",
    keys: ["ArrowLeft", "ArrowRight"],
    shown: "← →",
  },
});

export type CommandId = keyof typeof COMMANDS;

export const commands = Object.entries(COMMANDS) as [CommandId, Command][];

/** The keys of a command as they are written. Throws for one that is not in the table. */
export function keysOf(id: string): string {
  const command = (COMMANDS as Record<string, Command>)[id];
  if (!command) throw new Error(`There is no command ${id}`);
  return command.shown ?? writeKeys(command.keys);
}
