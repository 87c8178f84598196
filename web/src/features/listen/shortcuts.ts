/** What the keys do while looking and listening. */
import type { Shortcut } from "../../shared/keys";
import { MODE_LABELS, MODES } from "./modes";
import type { ListenSession } from "./session";

export const listenShortcuts = (session: ListenSession): Shortcut[] => [
  { keys: ["Space"], text: "play, pause", run: () => session.toggle() },
  { keys: ["q"], text: "switch In and Out", run: () => session.switchSide() },
  ...MODES.map((mode, n) => ({
    keys: [String(n + 1)],
    text: `${n ? MODE_LABELS[mode].short : "stereo, left, right, mono, difference"}`,
    shown: n ? "" : `1 – ${MODES.length}`,
    run: () => session.setMode(mode),
  })),
  { keys: ["x"], text: "In − Out", run: () => session.toggleDifference() },
  { keys: ["m"], text: "level-match Out to In", run: () => session.toggleMatch() },
  { keys: ["v"], text: "next view", run: () => session.look.nextPicture() },
  { keys: ["["], text: "set the start of the range", run: () => session.startRangeHere() },
  { keys: ["]"], text: "set the end of the range", run: () => session.endRangeHere() },
  { keys: ["Escape"], text: "clear the range", run: () => session.select(null) },
  { keys: ["l"], text: "loop the range", run: () => session.toggleLoop() },
  { keys: ["+", "="], text: "zoom in", shown: "+", repeats: true, run: () => session.look.zoomBy(2) },
  { keys: ["-"], text: "zoom out", shown: "−", repeats: true, run: () => session.look.zoomBy(0.5) },
  { keys: ["0"], text: "zoom to fit", run: () => session.look.fit() },
  { keys: ["r"], text: "zoom to the range", run: () => session.look.showRange() },
  {
    keys: ["ArrowLeft", "ArrowRight"],
    text: "move the playhead",
    repeats: true,
    run: ({ key }) => session.step(key === "ArrowLeft" ? -1 : 1),
  },
  {
    keys: ["Shift+ArrowLeft", "Shift+ArrowRight"],
    text: "scroll",
    shown: "Shift ← →",
    repeats: true,
    run: ({ key }) => session.look.pan(((key === "ArrowLeft" ? -1 : 1) * session.store.getState().width) / 4),
  },
  {
    keys: ["Shift+ArrowUp", "Shift+ArrowDown"],
    text: "vertical zoom",
    shown: "Shift ↑ ↓",
    repeats: true,
    run: ({ key }) => session.look.enlarge(key === "ArrowUp" ? 1 : -1),
  },
  { keys: ["Home"], text: "to the start", run: () => session.seek(0) },
  { keys: ["End"], text: "to the end", run: () => session.seek(session.store.getState().frames) },
];
