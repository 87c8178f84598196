/** What the keys do while looking and listening. */
import type { Shortcuts } from "../../shared/keys";
import { MODES } from "./modes";
import type { ListenSession } from "./session";

export const listenShortcuts = (session: ListenSession): Shortcuts => {
  const { frames, width } = session.store.getState();
  return {
    Space: () => session.toggle(),
    q: () => session.switchSide(),
    l: () => session.toggleLoop(),
    v: () => session.nextPicture(),
    m: () => session.toggleMatch(),
    x: () => session.toggleDifference(),
    "[": () => session.startRangeHere(),
    "]": () => session.endRangeHere(),
    Escape: () => session.select(null),
    "+": () => session.zoomBy(2),
    "=": () => session.zoomBy(2),
    "-": () => session.zoomBy(0.5),
    "0": () => session.fit(),
    r: () => session.showRange(),
    Home: () => session.seek(0),
    End: () => session.seek(frames),
    ArrowLeft: () => session.step(-1),
    ArrowRight: () => session.step(1),
    "Shift+ArrowLeft": () => session.pan(-width / 4),
    "Shift+ArrowRight": () => session.pan(width / 4),
    "Shift+ArrowUp": () => session.enlarge(1),
    "Shift+ArrowDown": () => session.enlarge(-1),
    ...Object.fromEntries(MODES.map((mode, n) => [String(n + 1), () => session.setMode(mode)])),
  };
};
