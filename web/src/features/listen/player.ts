/**
 * Plays In and Out: fetches their blocks ahead of the position and hands them to the graph, which keeps the time.
 *
 * The graph is idle, opening, open or closed, and belongs to one sample rate. What was asked for while it opens holds
 * when it is open. Each seek, play and pause begins an epoch; reports of an earlier one are out of date.
 */
import { Blocks, blockFramesOf, clipOf, type Program } from "./blocks";
import { type Graph, openGraph } from "./graph";
import { type FromGraph, SIDES, type Side, type SideSetup, type ToGraph } from "./messages";

export type PlayerState = { playing: boolean; waiting: boolean; problem: unknown };
type Gains = [readonly number[], readonly number[]];
type Open = typeof openGraph;

type GraphState =
  | { kind: "idle" }
  | { kind: "opening"; opened: Promise<void>; abort: AbortController }
  | { kind: "open"; graph: Graph; abort: AbortController }
  | { kind: "closed" };

export class Player {
  /** The frame that is heard now. */
  position = 0;
  private state: PlayerState = { playing: false, waiting: false, problem: null };
  private graph: GraphState = { kind: "idle" };
  /** The frame that the graph has come to, which is heard a little later. */
  private rendered = 0;
  private epoch = 0;
  private plays = 0;
  private program: Program | null = null;
  private gains: Gains = [[], []];
  private monitor: { side: Side; difference: boolean } = { side: 0, difference: false };
  private loop: readonly [number, number] | null = null;
  private blocks = new Blocks(
    (message, transfer) => this.send(message, transfer),
    (problem) => {
      this.pause();
      this.changed({ problem });
    },
  );
  private listeners = new Set<() => void>();
  private ears = new Set<(heard: Float32Array) => void>();

  constructor(private readonly open: Open = openGraph) {}

  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => void this.listeners.delete(listener);
  };
  getState = () => this.state;
  /** Call `ear` with what is heard, left and right in turn, some forty times a second. */
  listen = (ear: (heard: Float32Array) => void) => {
    this.ears.add(ear);
    return () => void this.ears.delete(ear);
  };

  load(program: Program, gains: Gains) {
    const before = this.program;
    this.program = program;
    this.gains = gains;
    for (const side of SIDES) {
      const [old, now] = [before?.sides[side] ?? null, program.sides[side]];
      if (old?.key === now?.key && clipOf(old) === clipOf(now)) continue;
      this.blocks.forget(side);
    }
    if (before && before.rate !== program.rate) this.closeGraph();
    if (this.rendered > program.frames) this.seek(program.frames);
    this.sendSides();
    if (this.state.playing) void this.feed();
  }

  setGains(gains: Gains) {
    if (SIDES.every((side) => String(gains[side]) === String(this.gains[side]))) return;
    this.gains = gains;
    this.send({ kind: "gains", gains });
  }

  /** Hear In, Out, or In less Out. */
  setMonitor(side: Side, difference: boolean) {
    if (side === this.monitor.side && difference === this.monitor.difference) return;
    this.monitor = { side, difference };
    this.send({ kind: "monitor", side, difference });
  }

  setLoop(loop: readonly [number, number] | null) {
    this.loop = loop;
    this.send({ kind: "loop", loop });
    if (this.state.playing) void this.feed();
  }

  seek(frame: number) {
    this.rendered = Math.max(0, Math.min(Math.round(frame), this.program?.frames ?? 0));
    this.position = this.rendered;
    this.epoch++;
    this.send({ kind: "seek", position: this.position, epoch: this.epoch });
    if (this.state.playing) void this.feed();
    for (const listener of this.listeners) listener();
  }

  async play() {
    const { program } = this;
    if (!program || this.state.playing) return;
    if (this.rendered >= program.frames) this.seek(0);
    const request = ++this.plays;
    this.epoch++;
    this.changed({ playing: true, waiting: true, problem: null });
    try {
      await this.opened(program.rate);
      // Paused meanwhile, or paused and played again.
      if (request !== this.plays || !this.state.playing) return;
      this.send({ kind: "seek", position: this.rendered, epoch: this.epoch });
      this.send({ kind: "play", playing: true, epoch: this.epoch });
      await this.feed();
    } catch (problem) {
      if (isAbort(problem)) return;
      this.graph = { kind: "idle" };
      this.changed({ playing: false, waiting: false, problem });
    }
  }

  pause() {
    this.epoch++;
    this.rendered = this.position;
    this.send({ kind: "play", playing: false, epoch: this.epoch });
    this.changed({ playing: false, waiting: false });
  }

  /** End the sound. A player that is closed opens a graph anew when it is asked to play. */
  close() {
    for (const side of SIDES) this.blocks.forget(side);
    this.closeGraph();
    this.graph = { kind: "closed" };
    this.program = null;
  }

  /** Resolves when the graph is open; all who ask while it opens wait for the same. */
  private opened(rate: number): Promise<void> {
    const { graph } = this;
    if (graph.kind === "opening") return graph.opened;
    if (graph.kind === "open") return Promise.resolve();
    const abort = new AbortController();
    const report = (message: FromGraph) => {
      if (!abort.signal.aborted) this.received(message);
    };
    const closedMeanwhile = () => new DOMException("The graph was closed while it opened", "AbortError");
    const failed = (problem: unknown) => {
      throw abort.signal.aborted ? closedMeanwhile() : problem;
    };
    const ended = (problem: unknown) => {
      if (abort.signal.aborted) return;
      const { playing } = this.state;
      this.closeGraph();
      // While nothing plays, the next time a graph is opened anew, and nothing need be said.
      if (playing) this.changed({ problem });
    };
    const opened = this.open(rate, report, abort.signal, ended).then((graph) => {
      if (abort.signal.aborted) {
        graph.close();
        throw closedMeanwhile();
      }
      this.graph = { kind: "open", graph, abort };
      for (const side of SIDES) this.blocks.forget(side);
      this.sendSides();
      this.send({ kind: "loop", loop: this.loop });
      this.send({ kind: "monitor", ...this.monitor });
    }, failed);
    this.graph = { kind: "opening", opened, abort };
    return opened;
  }

  private closeGraph() {
    if (this.graph.kind === "opening" || this.graph.kind === "open") this.graph.abort.abort();
    if (this.graph.kind === "open") this.graph.graph.close();
    this.graph = { kind: "idle" };
    this.epoch++;
    if (this.state.playing) this.changed({ playing: false, waiting: false });
  }

  private received(message: FromGraph) {
    if (message.epoch !== this.epoch) return;
    this.rendered = message.position;
    if (message.playing) void this.feed();
    const latency = this.graph.kind === "open" ? this.graph.graph.latency() : 0;
    if (latency > 0.01) setTimeout(() => this.heard(message), 1000 * latency);
    else this.heard(message);
  }

  /** What the graph reported is at the ear now. */
  private heard({ epoch, position, playing, waiting, heard }: FromGraph) {
    if (epoch !== this.epoch) return;
    this.position = position;
    if (heard) for (const ear of this.ears) ear(heard);
    const { state } = this;
    if (state.playing !== playing || state.waiting !== waiting) this.changed({ playing, waiting });
  }

  private sendSides() {
    const { program } = this;
    if (!program) return;
    const setup = (side: Side): SideSetup => ({
      clip: clipOf(program.sides[side]),
      key: program.sides[side]?.key ?? "",
      channels: program.sides[side]?.channels ?? 0,
      gains: this.gains[side],
    });
    const { frames } = program;
    this.send({ kind: "sides", sides: [setup(0), setup(1)], blockFrames: blockFramesOf(program), frames });
  }

  private async feed() {
    const { program, loop, rendered } = this;
    if (program && this.graph.kind === "open") await this.blocks.feed(program, rendered, loop);
  }

  private send(message: ToGraph, transfer: Transferable[] = []) {
    if (this.graph.kind === "open") this.graph.graph.send(message, transfer);
  }

  private changed(change: Partial<PlayerState>) {
    this.state = { ...this.state, ...change };
    for (const listener of this.listeners) listener();
  }
}

const isAbort = (problem: unknown) => problem instanceof DOMException && problem.name === "AbortError";
