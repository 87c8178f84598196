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

type Held = { key: string; channels: number; gains: number[]; blocks: Map<number, Float32Array> };
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
          const blocks = old.key === side.key ? old.blocks : new Map<number, Float32Array>();
          this.held[n as Side] = { ...side, blocks };
        });
        break;
      case "block": {
        const held = this.held[message.side];
        if (held.key === message.key) held.blocks.set(message.index, message.data);
        break;
      }
      case "drop":
        this.held[message.side].blocks.delete(message.index);
        break;
      case "gains":
        this.held[0].gains = message.gains[0];
        this.held[1].gains = message.gains[1];
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
      this.fill(left, 0, done, run, a, b, at);
      this.fill(right, 1, done, run, a, b, at);
      this.mix = this.mixAfter(run);
      this.position += run;
      done += run;
    }
    this.untold += left.length;
    if (waiting || !this.playing || this.untold >= TELL_EVERY_FRAMES) this.tell(waiting);
    return true;
  }

  /** The block of a side; null where the side has no channels, undefined where it has not arrived. */
  private block(side: Side, index: number): Float32Array | null | undefined {
    const held = this.held[side];
    return held.channels ? held.blocks.get(index) : null;
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
    a: Float32Array | null,
    b: Float32Array | null,
    at: number,
  ) {
    const switching = this.mix !== this.side;
    for (let i = 0; i < run; i++) {
      if (switching) {
        const mix = this.mixAfter(i);
        out[from + i] = (1 - mix) * this.heard(0, ear, a, at + i) + mix * this.heard(1, ear, b, at + i);
      } else out[from + i] = this.heard(this.side, ear, this.side ? b : a, at + i);
    }
  }

  private heard(side: Side, ear: number, block: Float32Array | null, at: number): number {
    if (!block) return 0;
    const { channels, gains } = this.held[side];
    let sum = 0;
    for (let c = 0; c < channels; c++) {
      const gain = gains[ear * channels + c] ?? 0;
      if (gain !== 0) sum += gain * (block[at * channels + c] ?? 0);
    }
    return sum;
  }

  private tell(waiting: boolean) {
    this.untold = 0;
    this.port.postMessage({ position: this.position, playing: this.playing, waiting });
  }
}

registerProcessor("wedge-turn-player", Player);
