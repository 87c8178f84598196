/**
 * Plays In and Out: fetches their blocks ahead of the position and hands them to the graph, which keeps the time.
 * Nothing is resampled: the graph runs at the rate of the clips.
 */
import { fetchFloats, type View } from "../../api/binary";
import type { FromGraph, Side, SideSetup, ToGraph } from "./messages";
import playerUrl from "./player.worklet.ts?worker&url";

const BLOCK_SECONDS = 0.5;
const BLOCKS_AHEAD = 6;
/** What is heard before an answer may have come is asked first. */
const SOON_SECONDS = 0.3;

export type Playable = {
  /** The same key, the same samples. */
  key: string;
  view: View;
  channels: number;
};
export type Program = { sides: [Playable | null, Playable | null]; rate: number; frames: number };
export type PlayerState = { playing: boolean; waiting: boolean; problem: unknown };

/** Blocks that are on their way, or that the graph holds. */
type Fetching = Map<number, { abort: AbortController; arrived: Promise<void>; held: boolean }>;

export class Player {
  position = 0;
  private state: PlayerState = { playing: false, waiting: false, problem: null };
  private program: Program | null = null;
  private gains: [number[], number[]] = [[], []];
  private side: Side = 0;
  private loop: [number, number] | null = null;
  private context: AudioContext | null = null;
  private node: AudioWorkletNode | null = null;
  private fetching: [Fetching, Fetching] = [new Map(), new Map()];
  private listeners = new Set<() => void>();
  private ears = new Set<(heard: Float32Array) => void>();
  private apart = false;

  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => void this.listeners.delete(listener);
  };
  getState = () => this.state;
  /** Be told what is heard, left and right in turn, some forty times a second. */
  listen = (ear: (heard: Float32Array) => void) => {
    this.ears.add(ear);
    return () => void this.ears.delete(ear);
  };

  load(program: Program, gains: [number[], number[]]) {
    const before = this.program;
    this.program = program;
    this.gains = gains;
    for (const side of [0, 1] as const)
      if (before?.sides[side]?.key !== program.sides[side]?.key)
        this.forget(side, before?.sides[side]?.channels === program.sides[side]?.channels);
    if (before && before.rate !== program.rate) this.closeGraph();
    this.position = Math.min(this.position, program.frames);
    this.sendSides();
    if (this.state.playing) void this.feed();
  }

  /** Once what is heard next has arrived; at once where nothing is heard. */
  async ready() {
    if (this.state.playing) await this.fetchBlocks(this.wanted().soon);
  }

  setGains(gains: [number[], number[]]) {
    this.gains = gains;
    this.send({ kind: "gains", gains });
  }

  setSide(side: Side) {
    this.side = side;
    this.send({ kind: "side", side });
  }

  /** Hear In less Out instead of one of them. */
  setApart(apart: boolean) {
    this.apart = apart;
    this.send({ kind: "apart", apart });
  }

  setLoop(loop: [number, number] | null) {
    this.loop = loop;
    this.send({ kind: "loop", loop });
  }

  seek(frame: number) {
    this.position = Math.max(0, Math.min(Math.round(frame), this.program?.frames ?? 0));
    this.send({ kind: "seek", position: this.position });
    if (this.state.playing) void this.feed();
    this.changed({});
  }

  async play() {
    const program = this.program;
    if (!program || this.state.playing) return;
    if (this.position >= program.frames) this.position = 0;
    this.changed({ playing: true, waiting: true, problem: null });
    try {
      await this.openGraph(program.rate);
      this.send({ kind: "seek", position: this.position });
      this.send({ kind: "play", playing: true });
      await this.feed();
    } catch (problem) {
      this.changed({ playing: false, waiting: false, problem });
    }
  }

  pause() {
    this.send({ kind: "play", playing: false });
    this.changed({ playing: false, waiting: false });
  }

  close() {
    this.forget(0);
    this.forget(1);
    this.closeGraph();
    this.program = null;
  }

  private async openGraph(rate: number) {
    if (!this.context) {
      if (!window.isSecureContext)
        throw new Error("Sound needs an address on this machine (localhost) or https: this page has neither");
      const context = new AudioContext({ sampleRate: rate });
      await context.audioWorklet.addModule(playerUrl);
      const node = new AudioWorkletNode(context, "wedge-turn-player", {
        numberOfInputs: 0,
        outputChannelCount: [2],
      });
      node.port.onmessage = (event: MessageEvent<FromGraph>) => this.heard(event.data);
      node.connect(context.destination);
      this.context = context;
      this.node = node;
      this.forget(0);
      this.forget(1);
      this.sendSides();
      this.send({ kind: "loop", loop: this.loop });
      this.send({ kind: "side", side: this.side });
      this.send({ kind: "apart", apart: this.apart });
    }
    await this.context.resume();
  }

  private closeGraph() {
    this.node?.disconnect();
    void this.context?.close();
    this.context = this.node = null;
    if (this.state.playing) this.changed({ playing: false, waiting: false });
  }

  private heard({ position, playing, waiting, heard }: FromGraph) {
    this.position = position;
    if (heard) for (const ear of this.ears) ear(heard);
    const { state } = this;
    if (state.playing !== playing || state.waiting !== waiting) this.changed({ playing, waiting });
    if (playing) void this.feed();
  }

  private sendSides() {
    if (!this.program) return;
    const setup = (side: Side): SideSetup => ({
      key: this.program?.sides[side]?.key ?? "",
      channels: this.program?.sides[side]?.channels ?? 0,
      gains: this.gains[side],
    });
    const { frames } = this.program;
    this.send({ kind: "sides", sides: [setup(0), setup(1)], blockFrames: this.blockFrames, frames });
  }

  private get blockFrames() {
    return Math.round((this.program?.rate ?? 1) * BLOCK_SECONDS);
  }

  /** Indices of the blocks that are played next, the nearest first, round the loop. */
  private wanted(): { soon: number[]; later: number[] } {
    const { program, loop } = this;
    const [soon, later] = [new Set<number>(), new Set<number>()];
    const block = (frame: number) => Math.floor(frame / this.blockFrames);
    let frame = this.position;
    let until = 0;
    while (program && soon.size + later.size < BLOCKS_AHEAD && frame < program.frames) {
      if (loop && frame >= loop[1]) {
        frame = loop[0];
        if (soon.has(block(frame)) || later.has(block(frame))) break;
      }
      const index = block(frame);
      if (!soon.has(index)) (until < SOON_SECONDS * program.rate ? soon : later).add(index);
      const end = (index + 1) * this.blockFrames;
      const next = loop ? Math.min(end, loop[1]) : end;
      until += next - frame;
      frame = next;
    }
    return { soon: [...soon], later: [...later] };
  }

  private async feed() {
    const { soon, later } = this.wanted();
    for (const side of [0, 1] as const) {
      for (const [index, held] of this.fetching[side]) {
        if (soon.includes(index) || later.includes(index)) continue;
        held.abort.abort();
        this.fetching[side].delete(index);
        this.send({ kind: "drop", side, index });
      }
    }
    // What is heard next comes first, and alone: the others would only make it wait.
    await this.fetchBlocks(soon);
    await this.fetchBlocks(later);
  }

  private async fetchBlocks(indices: number[]) {
    await Promise.all(indices.flatMap((index) => [this.fetchBlock(0, index), this.fetchBlock(1, index)]));
  }

  private fetchBlock(side: Side, index: number): Promise<void> {
    const playable = this.program?.sides[side];
    const fetching = this.fetching[side];
    const known = fetching.get(index);
    if (!playable || known) return known?.arrived ?? Promise.resolve();
    const abort = new AbortController();
    const block = { abort, held: false, arrived: Promise.resolve() };
    block.arrived = this.receive(side, index, playable, abort.signal, () => {
      block.held = true;
      return fetching.get(index) === block;
    });
    fetching.set(index, block);
    return block.arrived;
  }

  private async receive(
    side: Side,
    index: number,
    playable: Playable,
    signal: AbortSignal,
    wanted: () => boolean,
  ) {
    const range = { start: index * this.blockFrames, frames: this.blockFrames };
    try {
      const data = await fetchFloats(playable.view, "samples", range, signal);
      if (wanted()) this.send({ kind: "block", side, key: playable.key, index, data }, [data.buffer]);
    } catch (problem) {
      if (signal.aborted) return;
      this.fetching[side].delete(index);
      this.pause();
      this.changed({ problem });
    }
  }

  /** Fetch the blocks of a side anew; while `heard`, those the graph holds are heard until then. */
  private forget(side: Side, heard = false) {
    for (const [index, block] of this.fetching[side]) {
      block.abort.abort();
      if (block.held && !heard) this.send({ kind: "drop", side, index });
    }
    this.fetching[side] = new Map();
  }

  private send(message: ToGraph, transfer: Transferable[] = []) {
    this.node?.port.postMessage(message, transfer);
  }

  private changed(change: Partial<PlayerState>) {
    this.state = { ...this.state, ...change };
    for (const listener of this.listeners) listener();
  }
}
