/** The commands for looking and listening, and for hushes on the waveform. */
import { table } from "./command";
import type { WorkbenchStore } from "./store";

const hasHushes = ({ hushes }: WorkbenchStore) => hushes !== null;
const scroll = (by: -1 | 1) => (bench: WorkbenchStore) =>
  bench.session.look.pan((by * bench.session.store.getState().width) / 4);

export const LISTEN_COMMANDS = table({
  play: {
    section: "View and listen",
    title: "play, pause",
    keys: ["Space"],
    run: ({ session }) => session.toggle(),
  },
  switchSide: {
    section: "View and listen",
    title: "toggle In/Out",
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
    title: "set the range start at the playhead",
    keys: ["["],
    run: ({ session }) => session.startRangeHere(),
  },
  endRange: {
    section: "View and listen",
    title: "set the range end at the playhead",
    keys: ["]"],
    run: ({ session }) => session.endRangeHere(),
  },
  close: {
    section: "View and listen",
    title: "close a question or a comparison; clear the range",
    keys: ["Escape"],
    run: (bench) => (bench.state.preview ? bench.previews.close() : bench.session.select(null)),
  },
  selectAgain: {
    section: "View and listen",
    title: "select the last range again",
    keys: ["Shift+r"],
    run: ({ session }) => session.selectAgain(),
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
  fitHeight: {
    section: "View and listen",
    title: "fit the height to each clip’s peak",
    keys: ["f"],
    run: ({ session }) => session.look.toggleFitHeight(),
  },
  toStart: {
    section: "View and listen",
    title: "go to the start",
    keys: ["Home"],
    run: ({ session }) => session.seek(0),
  },
  toEnd: {
    section: "View and listen",
    title: "go to the end",
    keys: ["End"],
    run: ({ session }) => session.seek(session.store.getState().frames),
  },
  drawHushes: {
    section: "Hushes",
    title: "draw hushes on the waveform; hush the selected range",
    keys: ["h"],
    when: hasHushes,
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
