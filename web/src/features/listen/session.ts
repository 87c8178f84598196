/**
 * The listening session: what is looked at and listened to, outside React. Its commands drive the player at once;
 * components read slices of its state. Clips are known by their references, so that neither a changed setting nor an
 * undo upstream moves the position, the range or the zoom.
 */
import { createStore } from "zustand/vanilla";
import type { Job } from "../../api/client";
import type { SelectedRange } from "../../shared/places";
import type { Playable, Program } from "./blocks";
import { laneChannels, laneEnd, laterLane } from "./lane";
import {
  gainsOf,
  INITIAL,
  keysOf,
  type ListenState,
  lanesOf,
  refsOf,
  type Shown,
  type ShownLane,
} from "./listenState";
import { Look } from "./look";
import type { Side } from "./messages";
import type { Mode } from "./modes";
import { Player } from "./player";
import { fitted, type Range } from "./viewport";

/** A level match makes Out no louder than this in dB, and not so loud that it would clip. */
const LOUDEST_MATCH = 24;

/** Pictures follow a moving setting when it has rested this long: what is heard does not wait for them. */
const REST = 180; // milliseconds

/** Integrated loudness in LUFS and true peak in dBTP; null for silence. */
export type Loudness = { loudness: number | null; truePeak: number | null };

export type SessionDeps = {
  loudness: (playable: Playable) => Promise<Loudness>;
  onProblem: (problem: unknown) => void;
};

export class ListenSession {
  readonly store = createStore<ListenState>(() => INITIAL);
  readonly look: Look;
  private resting: ReturnType<typeof setTimeout> | null = null;
  private matching = 0;
  /** The range that was selected last on these clips. */
  private lastRange: Range | null = null;

  constructor(
    private readonly outside: SessionDeps,
    readonly player = new Player(),
  ) {
    this.look = new Look(this.store, player);
    player.subscribe(() => {
      const { playing, waiting, problem } = player.getState();
      const before = this.state.problem;
      this.set({ playing, waiting, problem });
      if (problem && problem !== before) this.outside.onProblem(problem);
    });
  }

  private get state() {
    return this.store.getState();
  }

  /** The range that is selected, as turns take it. */
  get selected(): SelectedRange | null {
    const { range, rate, shown } = this.state;
    const startTime = shown.input?.clips[0]?.start_time ?? null;
    return range && { start: range[0], end: range[1], rate, startTime };
  }

  private set(change: Partial<ListenState>) {
    this.store.setState(change);
  }

  /**
   * Look at and listen to these clips, as they are in the job `now`: the page may be drawn later than the job was heard
   * of. Where what goes in is the same, position, range and zoom stay.
   */
  show(drawn: Shown, now: Job) {
    const shown = {
      ...drawn,
      revision: now.head,
      input: drawn.input && (laterLane(drawn.input, now) ?? drawn.input),
      output: drawn.output && (laterLane(drawn.output, now) ?? drawn.output),
    };
    const before = this.state.shown;
    const differs = refsOf(before.input) !== refsOf(shown.input) || before.job !== shown.job;
    const rate = shown.input?.clips[0]?.rate ?? 48_000;
    const frames = Math.max(laneEnd(shown.input), laneEnd(shown.output));
    const lanes = lanesOf(shown);
    const channels = Math.max(0, ...lanes.map(({ lane }) => laneChannels(lane)));
    if (differs) this.player.pause();
    this.set({ shown, rate, frames, channels });
    if (
      before.picture !== shown.picture &&
      (shown.picture !== "wave" || this.state.picture === before.picture)
    )
      this.set({ picture: shown.picture });
    this.setLanes(lanes, differs || refsOf(before.output) !== refsOf(shown.output));
    if (differs) {
      this.player.seek(0);
      this.select(null);
      this.lastRange = null;
      this.look.fit();
    } else {
      const { range, viewport, width } = this.state;
      this.set({ viewport: fitted(viewport, frames, width) });
      if (range && range[1] > frames) this.select(range[0] < frames ? [range[0], frames] : null);
    }
  }

  /** Hear what a changed job has made of the clips that are shown, before the page is drawn anew. */
  updateClips(job: Job) {
    const { shown } = this.state;
    const [input, output] = [
      shown.input && laterLane(shown.input, job),
      shown.output && laterLane(shown.output, job),
    ];
    if (!input || (shown.output && !output)) return;
    this.set({ shown: { ...shown, input, output, revision: job.head } });
    this.setLanes(lanesOf(this.state.shown), false);
  }

  close() {
    if (this.resting) clearTimeout(this.resting);
    this.player.close();
  }

  // What is heard

  toggle() {
    const { playing, loop, range, frames } = this.state;
    if (playing) return this.player.pause();
    if (!frames) return;
    // With a loop on, play stays within it.
    const { position } = this.player;
    if (loop && range && (position < range[0] || position >= range[1])) this.player.seek(range[0]);
    void this.player.play();
  }

  seek(frame: number) {
    this.player.seek(frame);
  }

  /** Move the playhead by pixels of the picture, by a sample at least. */
  step(pixels: number) {
    const frames = Math.max(1, Math.abs(pixels) * this.state.viewport.scale) * Math.sign(pixels);
    this.player.seek(this.player.position + frames);
  }

  listenTo(monitor: Side) {
    this.set({ monitor, difference: false });
    this.monitorNow();
  }

  switchSide() {
    if (this.state.shown.output) this.listenTo(this.state.monitor ? 0 : 1);
  }

  toggleDifference() {
    if (!this.state.shown.output) return;
    this.set({ difference: !this.state.difference });
    this.monitorNow();
  }

  setMode(mode: Mode) {
    this.set({ mode });
    this.player.setGains(gainsOf(this.state));
  }

  setPair(pair: readonly [number, number]) {
    this.set({ pair });
    this.player.setGains(gainsOf(this.state));
  }

  /** Play Out as loud as In, or as it is: louder is easily taken for better. */
  toggleMatch() {
    if (!this.state.shown.output) return;
    this.set({ matched: !this.state.matched });
    void this.rematch();
  }

  toggleLoop() {
    this.set({ loop: !this.state.loop });
    this.loopNow();
  }

  // The range

  select(range: Range | null) {
    const selected = range && range[1] > range[0] ? range : null;
    if (selected) this.lastRange = selected;
    this.set({ range: selected });
    this.loopNow();
  }

  /** Select the last range again, where it was cleared by mistake. */
  selectAgain() {
    if (this.lastRange && this.lastRange[1] <= this.state.frames) this.select(this.lastRange);
  }

  startRangeHere() {
    const { range, frames } = this.state;
    const { position } = this.player;
    this.select([position, range && range[1] > position ? range[1] : frames]);
  }

  endRangeHere() {
    const { range } = this.state;
    const { position } = this.player;
    this.select([range && range[0] < position ? range[0] : 0, position]);
  }

  private setLanes(lanes: readonly ShownLane[], atOnce: boolean) {
    if (!atOnce && JSON.stringify(lanes) === JSON.stringify(this.state.lanes)) return;
    this.set(atOnce ? { lanes, match: 1, matching: "measuring" } : { lanes });
    if (this.resting) clearTimeout(this.resting);
    const draw = () => this.set({ drawn: this.state.lanes });
    if (atOnce || keysOf(lanes) === keysOf(this.state.drawn)) draw();
    else this.resting = setTimeout(draw, REST);
    const { rate, frames } = this.state;
    const sides: Program["sides"] = [lanes[0]?.playable ?? null, lanes[1]?.playable ?? null];
    this.player.load({ sides, rate, frames }, gainsOf(this.state));
    this.monitorNow();
    if (this.state.matched) void this.rematch();
  }

  private monitorNow() {
    const { shown, monitor, difference } = this.state;
    this.player.setGains(gainsOf(this.state));
    this.player.setMonitor(shown.output ? monitor : 0, difference && shown.output !== null);
  }

  private loopNow() {
    const { loop, range } = this.state;
    this.player.setLoop(loop ? range : null);
  }

  /** Measure how loud In and Out are. Until that is known the last match holds. */
  private async rematch() {
    const request = ++this.matching;
    const [input, output] = this.state.lanes;
    if (this.state.matched && input && output) {
      this.set({ matching: "measuring" });
      const measured = await Promise.all(
        ([input, output] as const).map((one) => this.outside.loudness(one.playable)),
      ).catch(() => null);
      if (request !== this.matching) return;
      this.set(matchOf(measured));
    }
    this.player.setGains(gainsOf(this.state));
  }
}

/** How Out is made as loud as In. */
function matchOf(measured: readonly Loudness[] | null): Pick<ListenState, "match" | "matching"> {
  const [before, after] = measured ?? [];
  if (!before || !after) return { match: 1, matching: "failed" };
  if (before.loudness === null || after.loudness === null) return { match: 1, matching: "silent" };
  const wanted = before.loudness - after.loudness;
  const most = Math.max(0, Math.min(LOUDEST_MATCH, -(after.truePeak ?? 0)));
  return {
    match: 10 ** (Math.min(wanted, most) / 20),
    matching: wanted > most ? "limited" : "matched",
  };
}
