/**
 * The listening session: what is looked at and listened to, outside React. Its commands drive the player at once;
 * components read slices of its state. Clips are known by their references, so that neither a changed setting nor an
 * undo upstream moves the position, the range or the zoom.
 */
import { createStore } from "zustand/vanilla";
import type { Job } from "../../api/client";
import { type LaneClips, laneChannels, laneFrames, laterLane, playable } from "./lane";
import type { Side } from "./messages";
import { gainsFor, type Mode } from "./modes";
import { acceptedPicture, nextPicture, type PictureName } from "./pictureNames";
import { type Playable, Player, type PlayerState, type Program } from "./player";
import { fitted, pan, type Range, resized, showAll, showRange, type Viewport, zoom } from "./viewport";

export const HEIGHTS = [1, 2, 4, 8, 16, 32, 64];
/** Pictures follow a moving setting when it has rested this long: what is heard does not wait for them. */
const REST = 180; // milliseconds

export type Labels = readonly [input: string, output: string, difference: string];
export type Shown = {
  job: string;
  revision: string;
  input: LaneClips | null;
  output: LaneClips | null;
  /** What In, Out and In less Out are, where they have names of their own. */
  labels: Labels;
  /** The picture that shows best what is done. */
  picture: PictureName;
};
export type ShownLane = { lane: LaneClips; playable: Playable };

export type ListenState = PlayerState & {
  shown: Shown;
  /** The lanes that are heard, and as they are drawn. */
  lanes: readonly ShownLane[];
  drawn: readonly ShownLane[];
  rate: number;
  frames: number;
  channels: number;
  monitor: Side;
  difference: boolean;
  mode: Mode;
  pair: readonly [number, number];
  matched: boolean;
  /** What Out is multiplied by, so that it is as loud as In. */
  match: number;
  range: Range | null;
  loop: boolean;
  viewport: Viewport;
  /** Pixels of the time axis. */
  width: number;
  height: number;
  picture: PictureName;
  midSide: boolean;
  /** The frequency under the pointer, in hertz. */
  pointed: number | null;
};

export type Outside = {
  /** Integrated loudness in LUFS; null for silence. */
  loudness: (playable: Playable) => Promise<number | null>;
  onProblem: (problem: unknown) => void;
};

const NOTHING: Shown = {
  job: "",
  revision: "",
  input: null,
  output: null,
  labels: ["In", "Out", "In − Out"],
  picture: "wave",
};

export class ListenSession {
  readonly store = createStore<ListenState>(() => ({
    playing: false,
    waiting: false,
    problem: null,
    shown: NOTHING,
    lanes: [],
    drawn: [],
    rate: 48_000,
    frames: 0,
    channels: 0,
    monitor: 1,
    difference: false,
    mode: "stereo",
    pair: [0, 1],
    matched: false,
    match: 1,
    range: null,
    loop: true,
    viewport: { start: 0, scale: 1 },
    width: 800,
    height: 0,
    picture: "wave",
    midSide: false,
    pointed: null,
  }));
  private resting: ReturnType<typeof setTimeout> | null = null;
  private matching = 0;

  constructor(
    private readonly outside: Outside,
    readonly player = new Player(),
  ) {
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

  private set(change: Partial<ListenState>) {
    this.store.setState(change);
  }

  /** Look at and listen to these clips. Where what goes in is the same, position, range and zoom stay. */
  show(shown: Shown) {
    const before = this.state.shown;
    const other = refsOf(before.input) !== refsOf(shown.input) || before.job !== shown.job;
    const rate = shown.input?.clips[0]?.rate ?? 48_000;
    const frames = Math.max(laneFrames(shown.input), laneFrames(shown.output));
    const lanes = lanesOf(shown);
    const channels = Math.max(0, ...lanes.map(({ lane }) => laneChannels(lane)));
    if (other) this.player.pause();
    this.set({ shown, rate, frames, channels });
    if (
      before.picture !== shown.picture &&
      (shown.picture !== "wave" || this.state.picture === before.picture)
    )
      this.set({ picture: shown.picture });
    this.setLanes(lanes, other || refsOf(before.output) !== refsOf(shown.output));
    if (other) {
      this.player.seek(0);
      this.select(null);
      this.fit();
    } else {
      const { range, viewport, width } = this.state;
      this.set({ viewport: fitted(viewport, frames, width) });
      if (range && range[1] > frames) this.select(range[0] < frames ? [range[0], frames] : null);
    }
  }

  /** Hear what a changed job has made of the clips that are shown, before the page is drawn anew. */
  hearJob(job: Job) {
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
    this.player.setGains(this.gains());
  }

  setPair(pair: readonly [number, number]) {
    this.set({ pair });
    this.player.setGains(this.gains());
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
    this.set({ range: range && range[1] > range[0] ? range : null });
    this.loopNow();
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

  // The picture

  setPicture(picture: PictureName) {
    this.set({ picture });
  }

  nextPicture() {
    const { picture, channels } = this.state;
    this.set({ picture: nextPicture(acceptedPicture(picture, channels), channels) });
  }

  setMidSide(midSide: boolean) {
    this.set({ midSide });
  }

  point(pointed: number | null) {
    this.set({ pointed });
  }

  /** The time axis has another width: the same stretch of time fills it. */
  setWidth(width: number) {
    const { viewport, frames, width: before } = this.state;
    if (width !== before) this.set({ width, viewport: resized(viewport, before, width, frames) });
  }

  zoomAt(factor: number, x: number) {
    const { viewport, frames, width } = this.state;
    this.set({ viewport: zoom(viewport, factor, x, frames, width) });
  }

  /** Zoom about the playhead where it is seen, else about the middle. */
  zoomBy(factor: number) {
    const { viewport, width } = this.state;
    const x = (this.player.position - viewport.start) / viewport.scale;
    this.zoomAt(factor, x >= 0 && x <= width ? x : width / 2);
  }

  pan(pixels: number) {
    const { viewport, frames, width } = this.state;
    this.set({ viewport: pan(viewport, pixels, frames, width) });
  }

  fit() {
    this.set({ viewport: showAll(this.state.frames, this.state.width) });
  }

  showRange() {
    const { range, width } = this.state;
    if (range) this.set({ viewport: showRange(range, width) });
  }

  /** While playing, turn the page to the playhead. */
  follow() {
    if (this.state.playing) this.pan(playheadPixel(this));
  }

  enlarge(by: number) {
    this.set({ height: Math.max(0, Math.min(HEIGHTS.length - 1, this.state.height + by)) });
  }

  private setLanes(lanes: readonly ShownLane[], atOnce: boolean) {
    if (!atOnce && JSON.stringify(lanes) === JSON.stringify(this.state.lanes)) return;
    this.set(atOnce ? { lanes, match: 1 } : { lanes });
    if (this.resting) clearTimeout(this.resting);
    const draw = () => this.set({ drawn: this.state.lanes });
    if (atOnce || keysOf(lanes) === keysOf(this.state.drawn)) draw();
    else this.resting = setTimeout(draw, REST);
    const { rate, frames } = this.state;
    const sides: Program["sides"] = [lanes[0]?.playable ?? null, lanes[1]?.playable ?? null];
    this.player.load({ sides, rate, frames }, this.gains());
    this.monitorNow();
    if (this.state.matched) void this.rematch();
  }

  private monitorNow() {
    const { shown, monitor, difference } = this.state;
    this.player.setMonitor(shown.output ? monitor : 0, difference && shown.output !== null);
  }

  private loopNow() {
    const { loop, range } = this.state;
    this.player.setLoop(loop ? range : null);
  }

  private gains(): [readonly number[], readonly number[]] {
    const { lanes, mode, pair, matched, match } = this.state;
    const of = (side: Side) => {
      const channels = lanes[side]?.playable.channels ?? 0;
      const last = Math.max(0, channels - 1);
      const gains = gainsFor(mode, channels, [Math.min(pair[0], last), Math.min(pair[1], last)]);
      return side && matched ? gains.map((gain) => gain * match) : gains;
    };
    return [of(0), of(1)];
  }

  /** Measure how loud In and Out are. Until that is known the last match holds. */
  private async rematch() {
    const request = ++this.matching;
    const [input, output] = this.state.lanes;
    if (this.state.matched && input && output) {
      const measured = await Promise.all(
        [input, output].map((one) => this.outside.loudness(one.playable)),
      ).catch(() => [null, null]);
      if (request !== this.matching) return;
      const [before, after] = measured;
      const known = typeof before === "number" && typeof after === "number";
      this.set({ match: known ? 10 ** ((before - after) / 20) : 1 });
    }
    this.player.setGains(this.gains());
  }
}

/** The frame that is heard as a pixel of the time axis. */
export const playheadPixel = ({ player, store }: ListenSession) => {
  const { viewport } = store.getState();
  return (player.position - viewport.start) / viewport.scale;
};

const refsOf = (lane: LaneClips | null) => lane?.clips.map((clip) => clip.ref).join("+") ?? "";
const keysOf = (lanes: readonly ShownLane[]) =>
  lanes.map((one) => `${one.lane.label} ${refsOf(one.lane)} ${one.playable.key}`).join("|");
const lanesOf = ({ input, output, job, revision }: Shown): ShownLane[] =>
  [input, output].flatMap((lane) => {
    const play = playable(lane, job, revision);
    return lane && play ? [{ lane, playable: play }] : [];
  });
