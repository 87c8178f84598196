/**
 * What sounds, without Web Audio. The mixer holds blocks of samples of two sides, In and Out, and one position for
 * both, so that they can never drift apart. A frame is played only when both sides have it; until then the position
 * waits. With gains of 1 what leaves here is, to the bit, what came in.
 *
 * Every switch fades over 5 ms: what would have been heard next is kept as a tail and faded out while what is heard
 * from now on fades in. Play starts at full level, so that the first sample of a file is the first that is heard.
 */
import { type FromGraph, SIDES, type Side, type SideSetup, type ToGraph } from "./messages";

const FADE_SECONDS = 0.005;
export const REPORT_EVERY_FRAMES = 1024;

type Block = {
  clip: string;
  key: string;
  channels: number;
  data: Float32Array;
  /** The block of an earlier setting that this one replaces, if that is what was heard until here. */
  before: Block | null;
};
type Held = SideSetup & { blocks: Map<number, Block> };
type Stereo = readonly [Float32Array, Float32Array];
const nothing = (): Held => ({ clip: "", key: "", channels: 0, gains: [], blocks: new Map() });

export class Mixer {
  private held: [Held, Held] = [nothing(), nothing()];
  private blockFrames = 1;
  private frames = 0;
  private position = 0;
  private playing = false;
  private waiting = false;
  private loop: readonly [number, number] | null = null;
  private side: Side = 0;
  private difference = false;
  private epoch = 0;
  private unreported = 0;
  private report = new Float32Array(2 * REPORT_EVERY_FRAMES);
  private readonly fade: number;
  private tail: { sound: Stereo; at: number } | null = null;
  /** The key that each side was last heard with. */
  private sounded: [string, string] = ["", ""];

  constructor(
    sampleRate: number,
    private readonly post: (message: FromGraph) => void,
  ) {
    this.fade = Math.max(1, Math.round(FADE_SECONDS * sampleRate));
  }

  take(message: ToGraph) {
    switch (message.kind) {
      case "sides":
        this.takeSides(message);
        break;
      case "block":
        this.takeBlock(message);
        break;
      case "drop":
        this.held[message.side].blocks.delete(message.index);
        break;
      case "gains":
        this.faded(() => {
          for (const side of SIDES) this.held[side].gains = message.gains[side];
        });
        break;
      case "monitor":
        this.faded(() => {
          this.side = message.side;
          this.difference = message.difference;
        });
        break;
      case "loop":
        this.loop = message.loop;
        break;
      case "seek":
        this.faded(() => {
          this.position = message.position;
          for (const side of SIDES) this.dropStale(side);
        });
        this.epoch = message.epoch;
        this.tell();
        break;
      case "play":
        if (!message.playing) this.faded(() => {});
        this.playing = message.playing;
        this.waiting = false;
        this.epoch = message.epoch;
        this.tell();
        break;
      default:
        message satisfies never;
    }
  }

  /** Fill both ears with what is heard next. */
  render(left: Float32Array, right: Float32Array) {
    const before = { playing: this.playing, waiting: this.waiting };
    const silent = !this.playing && !this.tail;
    left.fill(0);
    right.fill(0);
    this.play([left, right]);
    if (!silent) this.remember(left, right);
    const changed = before.playing !== this.playing || before.waiting !== this.waiting;
    if (changed || this.unreported >= REPORT_EVERY_FRAMES) this.tell();
  }

  private takeSides({ sides, blockFrames, frames }: Extract<ToGraph, { kind: "sides" }>) {
    const change = () => {
      this.blockFrames = blockFrames;
      this.frames = frames;
      for (const side of SIDES) this.held[side] = { ...sides[side], blocks: this.kept(side, sides[side]) };
    };
    // Other samples of the same clip are faded to when they arrive.
    const same = SIDES.every((side) => {
      const [old, now] = [this.held[side], sides[side]];
      return (
        old.clip === now.clip && old.channels === now.channels && String(old.gains) === String(now.gains)
      );
    });
    if (same) change();
    else this.faded(change);
  }

  /** Old samples of the same clip sound on until the new ones come, but only where they are being heard. */
  private kept(side: Side, setup: SideSetup): Map<number, Block> {
    const old = this.held[side];
    if (old.clip !== setup.clip || old.channels !== setup.channels) return new Map();
    if (old.key === setup.key) return old.blocks;
    const now = this.index(this.position);
    return this.playing ? new Map([...old.blocks].filter(([index]) => index >= now)) : new Map();
  }

  private takeBlock({ side, clip, key, index, data }: Extract<ToGraph, { kind: "block" }>) {
    const held = this.held[side];
    if (held.clip !== clip || held.key !== key) return;
    const old = held.blocks.get(index) ?? null;
    const block: Block = { clip, key, channels: held.channels, data, before: null };
    const store = () => void held.blocks.set(index, block);
    if (old && this.playing && this.index(this.position) === index) this.faded(store);
    else {
      if (old && old.key !== key) block.before = { ...old, before: null };
      store();
    }
  }

  /** After a jump nothing of an earlier setting is heard any more. */
  private dropStale(side: Side) {
    const { blocks, key } = this.held[side];
    for (const [index, block] of blocks) {
      if (block.key !== key) blocks.delete(index);
      block.before = null;
    }
  }

  private index(position: number) {
    return Math.floor(position / this.blockFrames);
  }

  /** Make a change, and fade from what would have been heard without it. */
  private faded(change: () => void) {
    if (this.playing || this.tail) {
      const tail: Stereo = [new Float32Array(this.fade), new Float32Array(this.fade)];
      this.ahead(tail);
      change();
      this.tail = { sound: tail, at: 0 };
    } else change();
  }

  /** What would be heard next, an unfinished fade included, without moving. */
  private ahead(out: Stereo) {
    const { position, playing, waiting, sounded, tail } = this;
    if (tail) this.tail = { ...tail };
    this.play(out, true);
    Object.assign(this, { position, playing, waiting, sounded, tail });
  }

  /** Play from the position on until `out` is full, the end has come, or a block is missing. */
  private play(out: Stereo, looking = false) {
    let done = 0;
    this.waiting = false;
    while (this.playing && done < out[0].length) {
      if (this.loop && this.position >= this.loop[1]) this.position = this.loop[0];
      if (this.position >= this.frames) {
        this.playing = false;
        break;
      }
      const index = this.index(this.position);
      const [a, b] = [this.block(0, index), this.block(1, index)];
      if (a === undefined || b === undefined) {
        this.waiting = true;
        break;
      }
      const at = this.position - index * this.blockFrames;
      if (at === 0) this.enter(index, a, b, looking);
      const stop = Math.min(this.frames, this.loop?.[1] ?? this.frames);
      const run = Math.min(out[0].length - done, this.blockFrames - at, stop - this.position);
      for (const ear of SIDES) this.fill(out[ear], ear, done, run, a, b, at);
      this.fadeTail(out, done, run);
      this.sounded = [a?.key ?? "", b?.key ?? ""];
      this.position += run;
      done += run;
    }
    this.fadeTail(out, done, out[0].length - done);
  }

  /** At the start of a block: where it has new samples and the one before was heard with the old, fade over. */
  private enter(index: number, a: Block | null, b: Block | null, looking: boolean) {
    const old = SIDES.map((side) => {
      const before = (side ? b : a)?.before;
      return before && before.key === this.sounded[side] ? before : null;
    });
    const tail: Stereo = [new Float32Array(this.fade), new Float32Array(this.fade)];
    if (old.some(Boolean)) {
      const run = Math.min(this.fade, this.blockFrames, this.frames - index * this.blockFrames);
      for (const ear of SIDES) this.fill(tail[ear], ear, 0, run, old[0] ?? a, old[1] ?? b, 0);
      this.fadeTail(tail, 0, this.fade);
      this.tail = { sound: tail, at: 0 };
    }
    if (looking) return;
    for (const side of SIDES) {
      const { blocks, key } = this.held[side];
      for (const [other, block] of blocks) {
        if (other === index) block.before = null;
        if (other < index && block.key !== key) blocks.delete(other);
      }
    }
  }

  /** Fade `run` frames of what is heard, from `from` on, in over the tail. */
  private fadeTail(out: Stereo, from: number, run: number) {
    const { tail, fade } = this;
    if (!tail) return;
    for (let i = 0; i < Math.min(run, fade - tail.at); i++) {
      const share = (tail.at + i) / fade;
      for (const ear of SIDES)
        out[ear][from + i] =
          share * (out[ear][from + i] ?? 0) + (1 - share) * (tail.sound[ear][tail.at + i] ?? 0);
    }
    tail.at += run;
    if (tail.at >= fade) this.tail = null;
  }

  /** The block of a side; null where the side has no channels, undefined where it has not arrived. */
  private block(side: Side, index: number): Block | null | undefined {
    const held = this.held[side];
    return held.channels ? held.blocks.get(index) : null;
  }

  private fill(
    out: Float32Array,
    ear: Side,
    from: number,
    run: number,
    a: Block | null,
    b: Block | null,
    at: number,
  ) {
    if (this.difference || this.side === 0) this.add(out, ear, from, run, 0, a, at, 1);
    if (this.difference || this.side === 1) this.add(out, ear, from, run, 1, b, at, this.difference ? -1 : 1);
  }

  private add(
    out: Float32Array,
    ear: Side,
    from: number,
    run: number,
    side: Side,
    block: Block | null,
    at: number,
    factor: 1 | -1,
  ) {
    if (!block) return;
    const { gains } = this.held[side];
    const { channels, data } = block;
    for (let c = 0; c < channels; c++) {
      const gain = factor * (gains[ear * channels + c] ?? 0);
      if (gain === 0) continue;
      for (let i = 0; i < run; i++)
        out[from + i] = (out[from + i] ?? 0) + gain * (data[(at + i) * channels + c] ?? 0);
    }
  }

  /** Keep what is heard for the meters. */
  private remember(left: Float32Array, right: Float32Array) {
    const room = Math.min(left.length, REPORT_EVERY_FRAMES - this.unreported);
    for (let i = 0; i < room; i++) {
      this.report[2 * (this.unreported + i)] = left[i] ?? 0;
      this.report[2 * (this.unreported + i) + 1] = right[i] ?? 0;
    }
    this.unreported += left.length;
  }

  private tell() {
    const frames = Math.min(this.unreported, REPORT_EVERY_FRAMES);
    this.unreported = 0;
    const { epoch, position, playing, waiting } = this;
    const heard = frames ? this.report.slice(0, 2 * frames) : null;
    this.post({ epoch, position, playing, waiting, heard });
  }
}
