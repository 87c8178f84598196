/** Fetches blocks of samples ahead of where they are played, and hands them on. */
import { fetchFloats, type View } from "../../api/binary";
import { SIDES, type Side, type ToGraph } from "./messages";

const BLOCK_SECONDS = 0.5;
const BLOCKS_AHEAD = 6;
/** What is heard before an answer may have come is asked first. */
const SOON_SECONDS = 0.3;

export type Playable = {
  /** The same key, the same samples. */
  key: string;
  view: View;
  channels: number;
  /** By how many frames it begins after the time axis does. */
  later: number;
};
export type Program = { sides: [Playable | null, Playable | null]; rate: number; frames: number };
type Loop = readonly [number, number] | null;

/** Blocks that are on their way, or that the graph holds. */
type Fetching = Map<number, { abort: AbortController; arrived: Promise<void> }>;

/** The clips that are heard side by side, whatever their settings. */
export const clipOf = (playable: Playable | null) => playable?.view.clips.join("+") ?? "";
export const blockFramesOf = ({ rate }: Program) => Math.round(rate * BLOCK_SECONDS);

export class Blocks {
  private fetching: [Fetching, Fetching] = [new Map(), new Map()];
  /** Counts what was asked to be fed. */
  private feeding = 0;

  constructor(
    private readonly send: (message: ToGraph, transfer?: Transferable[]) => void,
    private readonly onProblem: (problem: unknown) => void,
  ) {}

  /** Indices of the blocks that are played next, the nearest first, round the loop. */
  private wanted(program: Program, position: number, loop: Loop): { soon: number[]; later: number[] } {
    const blockFrames = blockFramesOf(program);
    const [soon, later] = [new Set<number>(), new Set<number>()];
    const block = (frame: number) => Math.floor(frame / blockFrames);
    let frame = position;
    let until = 0;
    while (soon.size + later.size < BLOCKS_AHEAD && frame < program.frames) {
      if (loop && frame >= loop[1]) {
        frame = loop[0];
        if (soon.has(block(frame)) || later.has(block(frame))) break;
      }
      const index = block(frame);
      if (!soon.has(index)) (until < SOON_SECONDS * program.rate ? soon : later).add(index);
      const end = (index + 1) * blockFrames;
      const next = loop ? Math.min(end, loop[1]) : end;
      until += next - frame;
      frame = next;
    }
    return { soon: [...soon], later: [...later] };
  }

  /** Fetch what is played next from `position` on, and drop what is not. */
  async feed(program: Program, position: number, loop: Loop) {
    const feeding = ++this.feeding;
    const { soon, later } = this.wanted(program, position, loop);
    for (const side of SIDES) {
      for (const [index, held] of this.fetching[side]) {
        if (soon.includes(index) || later.includes(index)) continue;
        held.abort.abort();
        this.fetching[side].delete(index);
        this.send({ kind: "drop", side, index });
      }
    }
    // What is heard next comes first, and alone: the others would only make it wait.
    await this.fetchBlocks(program, soon);
    // Meanwhile a setting may have moved, or the playhead: blocks of before would stand in the way of those of now.
    if (feeding === this.feeding) await this.fetchBlocks(program, later);
  }

  private async fetchBlocks(program: Program, indices: number[]) {
    await Promise.all(indices.flatMap((index) => SIDES.map((side) => this.fetchBlock(program, side, index))));
  }

  private fetchBlock(program: Program, side: Side, index: number): Promise<void> {
    const playable = program.sides[side];
    const fetching = this.fetching[side];
    const known = fetching.get(index);
    if (!playable || known) return known?.arrived ?? Promise.resolve();
    const abort = new AbortController();
    const block = { abort, arrived: Promise.resolve() };
    block.arrived = this.receive(
      side,
      index,
      blockFramesOf(program),
      playable,
      abort.signal,
      () => this.fetching[side].get(index) === block,
    );
    fetching.set(index, block);
    return block.arrived;
  }

  private async receive(
    side: Side,
    index: number,
    frames: number,
    playable: Playable,
    signal: AbortSignal,
    wanted: () => boolean,
  ) {
    const range = { start: index * frames - playable.later, frames };
    try {
      const data = await fetchFloats(playable.view, "samples", range, signal);
      if (!wanted()) return;
      const { key } = playable;
      this.send({ kind: "block", side, clip: clipOf(playable), key, index, data }, [data.buffer]);
    } catch (problem) {
      if (signal.aborted) return;
      this.fetching[side].delete(index);
      this.onProblem(problem);
    }
  }

  /** Fetch the blocks of a side anew. The graph knows by their clip and key which of the old ones sound on. */
  forget(side: Side) {
    for (const block of this.fetching[side].values()) block.abort.abort();
    this.fetching[side] = new Map();
  }
}
