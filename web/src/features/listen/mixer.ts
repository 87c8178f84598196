/**
 * What sounds, without Web Audio. The mixer holds blocks of samples of two sides, In and Out, and one position for
 * both, so that they can never drift apart. A frame is played only when both sides have it; until then the position
 * waits. With gains of 1 what leaves here is, to the bit, what came in.
 *
 * Every switch fades over 5 ms: what would have been heard next is kept as a tail and faded out while what is heard
 * from now on fades in. Play starts at full level, so that the first sample of a file is the first that is heard.
 */
import { addBlock, type Stereo, silence, Tail } from "./fade";
import { type Block, blocksToKeep, dropPassed, type Held, nothing, sameClipAndGains } from "./held";
import { type FromGraph, SIDES, type Side, type ToGraph } from "./messages";

const FADE_SECONDS = 0.005;
export const REPORT_EVERY_FRAMES = 1024;

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
  private tail: Tail | null = null;
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
        this.sendReport();
        break;
      case "play":
        if (!message.playing) this.faded(() => {});
        this.playing = message.playing;
        this.waiting = false;
        this.epoch = message.epoch;
        this.sendReport();
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
    if (!silent) this.addToReport(left, right);
    const changed = before.playing !== this.playing || before.waiting !== this.waiting;
    if (changed || this.unreported >= REPORT_EVERY_FRAMES) this.sendReport();
  }

  private takeSides({ sides, blockFrames, frames }: Extract<ToGraph, { kind: "sides" }>) {
    const change = () => {
      this.blockFrames = blockFrames;
      this.frames = frames;
      for (const side of SIDES)
        this.held[side] = {
          ...sides[side],
          blocks: blocksToKeep(this.held[side], sides[side], this.playing ? this.index(this.position) : null),
        };
    };
    // Other samples of the same clip are faded to when they arrive.
    const same = SIDES.every((side) => sameClipAndGains(this.held[side], sides[side]));
    if (same) change();
    else this.faded(change);
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
      const tail = silence(this.fade);
      this.peek(tail);
      change();
      this.tail = new Tail(tail);
    } else change();
  }

  /** What would be heard next, an unfinished fade included, without moving. */
  private peek(out: Stereo) {
    const { position, playing, waiting, sounded, tail } = this;
    if (tail) this.tail = tail.copy();
    this.play(out, true);
    Object.assign(this, { position, playing, waiting, sounded, tail });
  }

  /** Play from the position on until `out` is full, the end has come, or a block is missing. */
  private play(out: Stereo, peeking = false) {
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
      if (at === 0) this.fadeBetweenSettings(index, a, b, peeking);
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
  private fadeBetweenSettings(index: number, a: Block | null, b: Block | null, peeking: boolean) {
    const old = SIDES.map((side) => {
      const before = (side ? b : a)?.before;
      return before && before.key === this.sounded[side] ? before : null;
    });
    const tail = silence(this.fade);
    if (old.some(Boolean)) {
      const run = Math.min(this.fade, this.blockFrames, this.frames - index * this.blockFrames);
      for (const ear of SIDES) this.fill(tail[ear], ear, 0, run, old[0] ?? a, old[1] ?? b, 0);
      this.fadeTail(tail, 0, this.fade);
      this.tail = new Tail(tail);
    }
    if (peeking) return;
    for (const side of SIDES) dropPassed(this.held[side], index);
  }

  /** Fade `run` frames of what is heard, from `from` on, in over the tail. */
  private fadeTail(out: Stereo, from: number, run: number) {
    if (this.tail?.under(out, from, run)) this.tail = null;
  }

  /** The block of a side; null where the side has no channels, undefined where it has not arrived. */
  private block(side: Side, index: number): Block | null | undefined {
    const held = this.held[side];
    return held.channels ? held.blocks.get(index) : null;
  }

  /** Add what is heard of both blocks to one ear. */
  private fill(
    out: Float32Array,
    ear: Side,
    from: number,
    run: number,
    a: Block | null,
    b: Block | null,
    at: number,
  ) {
    const { difference, side } = this;
    const place = { out, ear, from, run, at };
    if (a && (difference || side === 0)) addBlock(place, a, this.held[0].gains, 1);
    if (b && (difference || side === 1)) addBlock(place, b, this.held[1].gains, difference ? -1 : 1);
  }

  /** Keep what is heard for the meters. */
  private addToReport(left: Float32Array, right: Float32Array) {
    const count = Math.min(left.length, REPORT_EVERY_FRAMES - this.unreported);
    for (let i = 0; i < count; i++) {
      this.report[2 * (this.unreported + i)] = left[i] ?? 0;
      this.report[2 * (this.unreported + i) + 1] = right[i] ?? 0;
    }
    this.unreported += left.length;
  }

  private sendReport() {
    const frames = Math.min(this.unreported, REPORT_EVERY_FRAMES);
    this.unreported = 0;
    const { epoch, position, playing, waiting } = this;
    const heard = frames ? this.report.slice(0, 2 * frames) : null;
    this.post({ epoch, position, playing, waiting, heard });
  }
}
