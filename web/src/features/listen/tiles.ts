/**
 * Pictures and samples in tiles on a fixed grid. Lanes say which tiles they show now; what no lane shows any more is
 * given up. At most two are asked for at once, below the priority of sound, and what was fetched is kept within a
 * budget of bytes.
 */
import { LRUCache } from "lru-cache";
import { fetchFloats, type View } from "../../api/binary";

export type TileKind = "waveform" | "correlation" | "samples";
export const TILE_BINS = 1024;
const AT_ONCE = 2;
const BUDGET = 96e6; // bytes

/** `per` is frames in a bin. */
export type TileRequest = {
  key: string;
  view: View;
  channels: number;
  kind: TileKind;
  per: number;
  index: number;
};
/** The tiles of a lane that have come, by their index; and why one of them could not be had. */
export type ShownTiles = {
  tiles: ReadonlyMap<number, Float32Array>;
  waiting: boolean;
  problem: unknown;
};
type Asked = { request: TileRequest; abort: AbortController | null };

/** What a tile is a picture of, whatever the settings that made its clip. */
const subjectOf = ({ view, channels, kind, per }: TileRequest) =>
  `${view.clips.join("+")}|${channels}|${kind}|${per}`;
const nameOf = ({ key, kind, per, index }: TileRequest) => `${key}|${kind}|${per}|${index}`;

/** What one lane shows. */
export class TileLane {
  private requests: readonly TileRequest[] = [];
  /** What the tiles that are shown are pictures of. */
  private subject = "";
  private shown: ShownTiles = { tiles: new Map(), waiting: false, problem: null };
  private listeners = new Set<() => void>();

  constructor(private readonly store: TileStore) {}

  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => {
      this.listeners.delete(listener);
      if (!this.listeners.size) this.store.leave(this);
    };
  };
  getShown = () => this.shown;

  show(requests: readonly TileRequest[]) {
    this.requests = requests;
    this.store.wanted(this, requests);
    this.refresh();
  }

  /** Ask once more for what could not be had. */
  retry() {
    for (const request of this.requests) this.store.forgive(nameOf(request));
    this.show(this.requests);
  }

  wants(name: string) {
    return this.requests.some((request) => nameOf(request) === name);
  }

  /** Where a setting has changed, the tile of before stands where the new one has not come yet. */
  refresh() {
    const { store, requests } = this;
    const tiles = new Map<number, Float32Array>();
    const subject = requests[0] ? subjectOf(requests[0]) : "";
    let arrived = 0;
    for (const request of requests) {
      const tile = store.get(nameOf(request));
      if (tile) arrived++;
      const shown = tile ?? (subject === this.subject ? this.shown.tiles.get(request.index) : undefined);
      if (shown) tiles.set(request.index, shown);
    }
    this.subject = subject;
    const problem = requests.map((request) => store.failure(nameOf(request))).find(Boolean) ?? null;
    this.shown = { tiles, waiting: arrived < requests.length, problem };
    for (const listener of this.listeners) listener();
  }
}

export class TileStore {
  private readonly data: LRUCache<string, Float32Array>;
  private readonly lanes = new Set<TileLane>();
  /** What is waiting or on its way, the first asked first. */
  private readonly asked = new Map<string, Asked>();
  private readonly failures = new Map<string, unknown>();

  constructor(budget = BUDGET) {
    this.data = new LRUCache({ maxSize: budget, sizeCalculation: (tile) => Math.max(1, tile.byteLength) });
  }

  get(name: string): Float32Array | undefined {
    return this.data.get(name);
  }

  failure(name: string): unknown {
    return this.failures.get(name);
  }

  forgive(name: string) {
    this.failures.delete(name);
  }

  wanted(lane: TileLane, requests: readonly TileRequest[]) {
    this.lanes.add(lane);
    for (const request of requests) {
      const name = nameOf(request);
      if (this.data.has(name) || this.asked.has(name) || this.failures.has(name)) continue;
      this.asked.set(name, { request, abort: null });
    }
    this.giveUp();
    this.ask();
  }

  /** A lane is not on the page any more. */
  leave(lane: TileLane) {
    this.lanes.delete(lane);
    this.giveUp();
    this.ask();
  }

  private lanesThatWant(name: string) {
    return [...this.lanes].filter((lane) => lane.wants(name));
  }

  private giveUp() {
    for (const [name, { abort }] of this.asked) {
      if (this.lanesThatWant(name).length) continue;
      abort?.abort();
      this.asked.delete(name);
    }
    for (const name of this.failures.keys()) if (!this.lanesThatWant(name).length) this.failures.delete(name);
  }

  private ask() {
    const running = [...this.asked.values()].filter((one) => one.abort).length;
    const next = [...this.asked].filter(([, one]) => !one.abort).slice(0, Math.max(0, AT_ONCE - running));
    for (const [name, asked] of next) void this.fetch(name, asked);
  }

  private async fetch(name: string, asked: Asked) {
    const abort = new AbortController();
    asked.abort = abort;
    const { view, kind, per, index } = asked.request;
    const start = index * TILE_BINS * per;
    const range = kind === "samples" ? { start, frames: TILE_BINS } : { start, per, bins: TILE_BINS };
    try {
      this.data.set(name, await fetchFloats(view, kind, range, abort.signal, "low"));
    } catch (problem) {
      if (!abort.signal.aborted) this.failures.set(name, problem);
    }
    if (this.asked.get(name) === asked) this.asked.delete(name);
    if (!abort.signal.aborted) for (const lane of this.lanesThatWant(name)) lane.refresh();
    this.ask();
  }
}

export const tileStore = new TileStore();
