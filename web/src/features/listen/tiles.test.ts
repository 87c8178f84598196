import { expect, it, vi } from "vitest";
import { TILE_BINS, TileLane, type TileRequest, TileStore } from "./tiles";

const view = { job: "j", revision: "r", clips: ["source:a", "source:b"] };
const request = (index: number, change: Partial<TileRequest> = {}): TileRequest => ({
  key: "k",
  view,
  channels: 2,
  kind: "waveform",
  per: 256,
  index,
  ...change,
});
const bytes = (...values: number[]) => new Response(new Float32Array(values).buffer);

type Asked = { url: string; priority: string; signal: AbortSignal; answer: (response: Response) => void };

/** A server that answers when it is told to. */
function server() {
  const asked: Asked[] = [];
  vi.stubGlobal(
    "fetch",
    (url: string, { signal, priority }: { signal: AbortSignal; priority: string }) =>
      new Promise<Response>((answer, refuse) => {
        asked.push({ url, priority, signal, answer });
        signal.addEventListener("abort", () => refuse(new DOMException("given up", "AbortError")));
      }),
  );
  return asked;
}

function lane(store: TileStore) {
  const tileLane = new TileLane(store);
  const drawn = vi.fn();
  const leave = tileLane.subscribe(drawn);
  return { lane: tileLane, drawn, leave, tiles: () => Object.fromEntries(tileLane.getShown().tiles) };
}

it("asks once for a tile, and shows it to every lane that wants it, whoever asked first", async () => {
  const asked = server();
  const store = new TileStore();
  const [one, two] = [lane(store), lane(store)];
  one.lane.show([request(3)]);
  two.lane.show([request(3)]);
  expect(asked).toHaveLength(1);
  expect(one.lane.getShown().waiting).toBe(true);
  asked[0]?.answer(bytes(1, 2));
  await vi.waitFor(() => expect(two.tiles()).toEqual({ 3: new Float32Array([1, 2]) }));
  expect(one.tiles()).toEqual(two.tiles());
  const query = new URL(asked[0]?.url ?? "", "http://x").searchParams;
  expect(query.getAll("clip")).toEqual(view.clips);
  expect(Object.fromEntries(query)).toMatchObject({
    start: String(3 * TILE_BINS * 256),
    per: "256",
    bins: "1024",
  });
});

it("asks for samples by frames", () => {
  const asked = server();
  lane(new TileStore()).lane.show([request(2, { kind: "samples", per: 1 })]);
  expect(asked[0]?.url).toContain(`start=${2 * TILE_BINS}&frames=${TILE_BINS}`);
});

it("asks for two at a time, below the priority of sound", async () => {
  const asked = server();
  const { lane: shown } = lane(new TileStore());
  shown.show([0, 1, 2, 3].map((index) => request(index)));
  expect(asked.map(({ priority }) => priority)).toEqual(["low", "low"]);
  asked[0]?.answer(bytes(0));
  await vi.waitFor(() => expect(asked).toHaveLength(3));
});

it("gives up what no lane shows any more, and goes on with what it shows", async () => {
  const asked = server();
  const { lane: shown } = lane(new TileStore());
  shown.show([0, 1, 2].map((index) => request(index)));
  shown.show([request(1), request(9)]);
  expect(asked[0]?.signal.aborted).toBe(true);
  expect(asked[1]?.signal.aborted).toBe(false);
  await vi.waitFor(() =>
    expect(asked.map(({ url }) => /start=(\d+)/.exec(url)?.[1])).toContain(`${9 * TILE_BINS * 256}`),
  );
  expect(asked).toHaveLength(3);
});

it("gives up what a lane that leaves the page had asked for", () => {
  const asked = server();
  const { lane: shown, leave } = lane(new TileStore());
  shown.show([request(0)]);
  leave();
  expect(asked[0]?.signal.aborted).toBe(true);
});

it("says what could not be had, and asks again when it is told to", async () => {
  const asked = server();
  const { lane: shown, tiles } = lane(new TileStore());
  shown.show([request(0)]);
  asked[0]?.answer(new Response(JSON.stringify({ code: "x", message: "gone" }), { status: 404 }));
  await vi.waitFor(() => expect(String(shown.getShown().problem)).toContain("gone"));
  shown.show([request(0)]);
  expect(asked).toHaveLength(1);
  shown.retry();
  asked[1]?.answer(bytes(7));
  await vi.waitFor(() => expect(tiles()).toEqual({ 0: new Float32Array([7]) }));
  expect(shown.getShown().problem).toBeNull();
});

it("keeps no more than its budget of bytes", async () => {
  const asked = server();
  const { lane: shown, tiles } = lane(new TileStore(24));
  for (const index of [0, 1, 2, 3]) {
    shown.show([request(index)]);
    asked.at(-1)?.answer(bytes(index, index));
    await vi.waitFor(() => expect(tiles()).toHaveProperty(String(index)));
  }
  shown.show([request(3)]);
  expect(asked).toHaveLength(4);
  shown.show([request(0)]);
  expect(asked).toHaveLength(5);
});

it("keeps the picture of before while a changed setting is drawn, and no other clip's", async () => {
  const asked = server();
  const { lane: shown, tiles } = lane(new TileStore());
  shown.show([request(0)]);
  asked[0]?.answer(bytes(1));
  await vi.waitFor(() => expect(tiles()).toEqual({ 0: new Float32Array([1]) }));
  shown.show([request(0, { key: "moved" })]);
  expect(tiles()).toEqual({ 0: new Float32Array([1]) });
  expect(shown.getShown().waiting).toBe(true);
  asked[1]?.answer(bytes(2));
  await vi.waitFor(() => expect(tiles()).toEqual({ 0: new Float32Array([2]) }));
  expect(shown.getShown().waiting).toBe(false);
  shown.show([request(0, { key: "other", view: { ...view, clips: ["source:other"] } })]);
  expect(tiles()).toEqual({});
  shown.show([request(0, { key: "mono", channels: 1 })]);
  expect(tiles()).toEqual({});
});
