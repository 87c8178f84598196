/**
 * The player's end in the audio graph. It holds blocks of samples of two sides, In and Out, and one position for
 * both, so that they can never be apart. A frame is played only when both sides have it; until then the position
 * waits. With gains of 1 what leaves here is, to the bit, what came in.
 */
import type { Side, ToGraph } from "./messages";

declare const sampleRate: number;
declare function registerProcessor(name: string, processor: unknown): void;
declare class AudioWorkletProcessor {
  readonly port: MessagePort;
}

/** Switching between In and Out takes this long, so that it does not click. */
const FADE_SECONDS = 0.005;
const TELL_EVERY_FRAMES = 1024;

type Block = { key: string; channels: number; data: Float32Array };
type Held = { key: string; channels: number; gains: number[]; blocks: Map<number, Block> };
const nothing = (): Held => ({ key: "", channels: 0, gains: [], blocks: new Map() });

class Player extends AudioWorkletProcessor {
  private held: [Held, Held] = [nothing(), nothing()];
  private blockFrames = 1;
  private frames = 0;
  private position = 0;
  private playing = false;
  private loop: [number, number] | null = null;
  private side: Side = 0;
  private mix = 0;
  private untold = 0;
  /** In less Out is heard instead of one of them. */
  private apart = false;
  private heardFrames = new Float32Array(2 * TELL_EVERY_FRAMES);
  /** What was heard of a side before a setting changed, faded out from where the change arrived. */
  private fading: { side: Side; block: Block; index: number; from: number } | null = null;

  constructor() {
    super();
    this.port.onmessage = (event: MessageEvent<ToGraph>) => this.take(event.data);
  }

  private take(message: ToGraph) {
    switch (message.kind) {
      case "sides":
        this.blockFrames = message.blockFrames;
        this.frames = message.frames;
        message.sides.forEach((side, n) => {
          const old = this.held[n as Side];
          // A changed setting makes other samples of the same clip: the old ones are heard until the new ones come.
          this.held[n as Side] = { ...side, blocks: this.stillHeard(old, side.key, side.channels) };
        });
        break;
      case "block": {
        const held = this.held[message.side];
        if (held.key !== message.key) break;
        const old = held.blocks.get(message.index);
        if (old && this.playing && Math.floor(this.position / this.blockFrames) === message.index)
          this.fading = { side: message.side, block: old, index: message.index, from: this.position };
        held.blocks.set(message.index, { key: held.key, channels: held.channels, data: message.data });
        break;
      }
      case "drop":
        this.held[message.side].blocks.delete(message.index);
        break;
      case "gains":
        this.held[0].gains = message.gains[0];
        this.held[1].gains = message.gains[1];
        break;
      case "apart":
        this.apart = message.apart;
        break;
      case "side":
        this.side = message.side;
        if (!this.playing) this.mix = message.side;
        break;
      case "loop":
        this.loop = message.loop;
        break;
      case "seek":
        this.position = message.position;
        this.tell(false);
        break;
      case "play":
        this.playing = message.playing;
        if (message.playing) this.mix = this.side;
        this.tell(false);
        break;
    }
  }

  process(_: Float32Array[][], outputs: Float32Array[][]): boolean {
    const [left, right] = outputs[0] ?? [];
    if (!this.playing || !left || !right) return true;
    let waiting = false;
    let done = 0;
    while (done < left.length && !waiting && this.playing) {
      if (this.loop && this.position >= this.loop[1]) this.position = this.loop[0];
      if (this.position >= this.frames) {
        this.playing = false;
        break;
      }
      const index = Math.floor(this.position / this.blockFrames);
      const [a, b] = [this.block(0, index), this.block(1, index)];
      if (a === undefined || b === undefined) {
        waiting = true;
        break;
      }
      const at = this.position - index * this.blockFrames;
      const stop = Math.min(this.frames, this.loop?.[1] ?? this.frames);
      const run = Math.min(left.length - done, this.blockFrames - at, stop - this.position);
      this.fill(left, 0, done, run, a, b, at, index);
      this.fill(right, 1, done, run, a, b, at, index);
      this.keep(left, right, done, run);
      this.mix = this.mixAfter(run);
      this.position += run;
      done += run;
    }
    this.untold += left.length;
    if (waiting || !this.playing || this.untold >= TELL_EVERY_FRAMES) this.tell(waiting);
    return true;
  }

  /** The block of a side; null where the side has no channels, undefined where it has not arrived. */
  private block(side: Side, index: number): Block | null | undefined {
    const held = this.held[side];
    return held.channels ? held.blocks.get(index) : null;
  }

  /** All blocks where nothing changed; of changed samples those that are heard until the new ones come. */
  private stillHeard(old: Held, key: string, channels: number): Map<number, Block> {
    if (old.key === key) return old.blocks;
    if (old.channels !== channels) return new Map();
    const now = Math.floor(this.position / this.blockFrames);
    return new Map([...old.blocks].filter(([index]) => index >= now));
  }

  /** Remember what is heard, for the meters. */
  private keep(left: Float32Array, right: Float32Array, from: number, run: number) {
    const to = this.untold + from;
    for (let i = 0; i < run && to + i < TELL_EVERY_FRAMES; i++) {
      this.heardFrames[2 * (to + i)] = left[from + i] ?? 0;
      this.heardFrames[2 * (to + i) + 1] = right[from + i] ?? 0;
    }
  }

  /** How far the switch to the wanted side is after so many frames. */
  private mixAfter(frames: number): number {
    const moved = frames / (FADE_SECONDS * sampleRate);
    return this.side > this.mix ? Math.min(1, this.mix + moved) : Math.max(this.side, this.mix - moved);
  }

  private fill(
    out: Float32Array,
    ear: number,
    from: number,
    run: number,
    a: Block | null,
    b: Block | null,
    at: number,
    index: number,
  ) {
    const switching = this.mix !== this.side;
    for (let i = 0; i < run; i++) {
      if (this.apart)
        out[from + i] = this.heard(0, ear, a, at + i, index) - this.heard(1, ear, b, at + i, index);
      else if (switching) {
        const mix = this.mixAfter(i);
        out[from + i] =
          (1 - mix) * this.heard(0, ear, a, at + i, index) + mix * this.heard(1, ear, b, at + i, index);
      } else out[from + i] = this.heard(this.side, ear, this.side ? b : a, at + i, index);
    }
  }

  private heard(side: Side, ear: number, block: Block | null, at: number, index: number): number {
    if (!block) return 0;
    const now = this.mixed(side, ear, block, at);
    const { fading } = this;
    if (fading?.side !== side || fading.index !== index) return now;
    const passed = (index * this.blockFrames + at - fading.from) / (FADE_SECONDS * sampleRate);
    if (passed >= 1) return now;
    return passed * now + (1 - passed) * this.mixed(side, ear, fading.block, at);
  }

  private mixed(side: Side, ear: number, block: Block, at: number): number {
    const { gains } = this.held[side];
    const { channels, data } = block;
    let sum = 0;
    for (let c = 0; c < channels; c++) {
      const gain = gains[ear * channels + c] ?? 0;
      if (gain !== 0) sum += gain * (data[at * channels + c] ?? 0);
    }
    return sum;
  }

  private tell(waiting: boolean) {
    const frames = Math.min(this.untold, TELL_EVERY_FRAMES);
    const heard = this.playing && frames ? this.heardFrames.slice(0, 2 * frames) : null;
    this.untold = 0;
    this.port.postMessage({ position: this.position, playing: this.playing, waiting, heard });
  }
}

registerProcessor("wedge-turn-player", Player);
