import { beforeEach, expect, it, vi } from "vitest";
import type { Job } from "../../api/client";
import { clip } from "../../api/testing";
import type { LaneClips } from "./lane";
import type { Shown } from "./listenState";
import type { ToGraph } from "./messages";
import { Player } from "./player";
import { ListenSession } from "./session";

const RATE = 48_000;
const sent: ToGraph[] = [];
let loudness: Record<string, number | null> = {};
let peaks: Record<string, number> = {};

const lane = (label: "In" | "Out", name: string, channels = 2, key = name): LaneClips => ({
  label,
  clips: [{ ...clip(name, channels), key, frames: 10 * RATE, rate: RATE }],
});
const shown = (change: Partial<Shown> = {}): Shown => ({
  job: "j",
  revision: "r1",
  input: lane("In", "bell"),
  output: lane("Out", "turned"),
  labels: ["In", "Out", "In − Out"],
  picture: "wave",
  ...change,
});

/** A job that has these clips as they are shown, and is at their revision. */
const jobWith = ({ revision, input, output }: Shown) =>
  ({
    head: revision,
    sources: input?.clips ?? [],
    steps: [{ outputs: output?.clips ?? [] }],
  }) as unknown as Job;

function session() {
  const created = new ListenSession(
    {
      loudness: async ({ key }) => ({ loudness: (await loudness[key]) ?? null, truePeak: peaks[key] ?? -60 }),
      onProblem: vi.fn(),
    },
    new Player(async () => ({
      send: (message) => void sent.push(message),
      latency: () => 0,
      close: () => {},
    })),
  );
  created.look.setWidth(1_000);
  const showing = (shown: Shown, now = jobWith(shown)) => created.show(shown, now);
  showing(shown());
  return { session: created, showing, state: () => created.store.getState() };
}

beforeEach(() => {
  sent.length = 0;
  loudness = {};
  peaks = {};
  vi.stubGlobal("fetch", async () => new Response(new Float32Array(8).buffer));
});

it("shows a new clip whole, from its start, without a range", () => {
  const { session: listen, showing, state } = session();
  listen.seek(5_000);
  listen.select([100, 200]);
  listen.look.zoomBy(4);
  showing(shown({ input: lane("In", "horn") }));
  expect(state()).toMatchObject({ range: null, viewport: { start: 0, scale: (10 * RATE) / 1_000 } });
  expect(listen.player.position).toBe(0);
});

it("keeps position, range, zoom and sound through a change upstream, an undo and another line on the same file", async () => {
  const { session: listen, showing, state } = session();
  listen.select([100_000, 200_000]);
  listen.look.showRange();
  listen.toggle();
  await vi.waitFor(() => expect(sent.some((message) => message.kind === "play")).toBe(true));
  const before = state().viewport;
  showing(shown({ revision: "r2", input: lane("In", "bell", 2, "other samples") }));
  showing(shown({ revision: "r3", output: lane("Out", "another line") }));
  expect(state()).toMatchObject({ range: [100_000, 200_000], viewport: before, playing: true });
  expect(listen.player.position).toBe(100_000);
});

it("keeps the range and the stretch of time that is seen when the axis gets another width", () => {
  const { session: listen, state } = session();
  listen.look.setWidth(500);
  expect(state().viewport.scale).toBe((10 * RATE) / 500);
  listen.select([0, RATE]);
  listen.look.showRange();
  listen.look.setWidth(250);
  expect(state()).toMatchObject({ range: [0, RATE], viewport: { start: 0, scale: RATE / 250 } });
});

it("draws another clip at once, and a moving setting when it rests", () => {
  vi.useFakeTimers();
  const { showing, state } = session();
  const drawn = () => state().drawn.map((one) => one.playable.key);
  showing(shown({ output: lane("Out", "turned", 2, "moved") }));
  expect(drawn()).toEqual(["bell", "turned"]);
  expect(state().lanes.map((one) => one.playable.key)).toEqual(["bell", "moved"]);
  vi.advanceTimersByTime(200);
  expect(drawn()).toEqual(["bell", "moved"]);
  showing(shown({ output: lane("Out", "another line") }));
  expect(drawn()).toEqual(["bell", "another line"]);
});

it("hears what a changed job has made of the same clips", () => {
  const { session: listen, state } = session();
  const [bell] = lane("In", "bell").clips;
  const [turned] = lane("Out", "turned", 2, "after").clips;
  listen.updateClips({ head: "r2", sources: [bell], steps: [{ outputs: [turned] }] } as unknown as Job);
  expect(state().shown.revision).toBe("r2");
  expect(state().lanes.map((one) => one.playable.key)).toEqual(["bell", "after"]);
});

it("plays within the range it loops, and only there", () => {
  const { session: listen } = session();
  listen.select([1_000, 2_000]);
  listen.toggle();
  expect(listen.player.position).toBe(1_000);
  listen.toggle();
  listen.toggleLoop();
  listen.seek(0);
  listen.toggle();
  expect(listen.player.position).toBe(0);
});

it("sets the ends of a range at the playhead, wherever the other end is", () => {
  const { session: listen, state } = session();
  listen.seek(3_000);
  listen.startRangeHere();
  expect(state().range).toEqual([3_000, 10 * RATE]);
  listen.seek(5_000);
  listen.endRangeHere();
  expect(state().range).toEqual([3_000, 5_000]);
  listen.seek(7_000);
  listen.startRangeHere();
  expect(state().range).toEqual([7_000, 10 * RATE]);
});

it("selects a range again that was cleared, on the clips it was selected on", () => {
  const { session: listen, state, showing } = session();
  listen.selectAgain();
  expect(state().range).toBeNull();
  listen.select([1_000, 2_000]);
  listen.select(null);
  listen.selectAgain();
  expect(state().range).toEqual([1_000, 2_000]);
  showing(shown({ input: lane("In", "foghorn"), output: null }));
  listen.selectAgain();
  expect(state().range).toBeNull();
});

const outGain = () => {
  const last = sent.findLast((message) => message.kind === "gains");
  return last?.kind === "gains" ? last.gains[1][0] : undefined;
};

it("plays Out as loud as In, and keeps the last match until a moved setting is measured", async () => {
  loudness = { bell: -20, turned: -14 };
  const { session: listen, showing } = session();
  listen.toggle();
  await vi.waitFor(() => expect(sent.some((message) => message.kind === "play")).toBe(true));
  listen.toggleMatch();
  await vi.waitFor(() => expect(outGain()).toBeCloseTo(10 ** (-6 / 20)));
  let measured = (_: number) => {};
  const promise = new Promise<number>((resolve) => {
    measured = resolve;
  });
  Object.defineProperty(loudness, "moved", { get: () => promise });
  showing(shown({ revision: "r2", output: lane("Out", "turned", 2, "moved") }));
  expect(outGain()).toBeCloseTo(10 ** (-6 / 20));
  measured(-17);
  await vi.waitFor(() => expect(outGain()).toBeCloseTo(10 ** (-3 / 20)));
  listen.toggleMatch();
  await vi.waitFor(() => expect(outGain()).toBe(1));
});

it("subtracts Out as it is from In, whatever the level match", async () => {
  loudness = { bell: -20, turned: -14 };
  const { session: listen } = session();
  listen.toggle();
  await vi.waitFor(() => expect(sent.some((message) => message.kind === "play")).toBe(true));
  listen.toggleMatch();
  await vi.waitFor(() => expect(outGain()).toBeCloseTo(10 ** (-6 / 20)));
  listen.toggleDifference();
  expect(outGain()).toBe(1);
  listen.listenTo(1);
  expect(outGain()).toBeCloseTo(10 ** (-6 / 20));
});

it("makes Out no louder than 24 dB more, or than its true peak allows, and says so", async () => {
  loudness = { bell: -12, turned: -66 };
  const { session: listen, showing, state } = session();
  listen.toggle();
  await vi.waitFor(() => expect(sent.some((message) => message.kind === "play")).toBe(true));
  listen.toggleMatch();
  await vi.waitFor(() => expect(outGain()).toBeCloseTo(10 ** (24 / 20)));
  expect(state().matching).toBe("limited");
  peaks = { near: -4 };
  loudness.near = -20;
  showing(shown({ output: lane("Out", "near") }));
  await vi.waitFor(() => expect(outGain()).toBeCloseTo(10 ** (4 / 20)));
  expect(state().matching).toBe("limited");
});

it("says where Out could not be matched, and plays it as it is", async () => {
  loudness = { bell: -20, turned: null };
  const { session: listen, showing, state } = session();
  listen.toggleMatch();
  await vi.waitFor(() => expect(state().matching).toBe("silent"));
  expect(state().match).toBe(1);
  Object.defineProperty(loudness, "lost", { get: () => Promise.reject(new Error("away")) });
  showing(shown({ output: lane("Out", "lost") }));
  await vi.waitFor(() => expect(state().matching).toBe("failed"));
  expect(state().match).toBe(1);
});

it("shows the waveform where the chosen picture can't show so many channels, and goes on to those that can", () => {
  const { session: listen, showing, state } = session();
  listen.look.setPicture("map");
  showing(shown({ input: lane("In", "mono", 1), output: null }));
  expect(state().channels).toBe(1);
  listen.look.nextPicture();
  expect(state().picture).toBe("spectrum");
  listen.look.nextPicture();
  listen.look.nextPicture();
  expect(state().picture).toBe("wave");
});

it("shows a wedge on the map, and goes back from it", () => {
  const { session: listen, showing, state } = session();
  showing(shown({ picture: "map" }));
  expect(state().picture).toBe("map");
  showing(shown());
  expect(state().picture).toBe("wave");
  listen.look.setPicture("bands");
  showing(shown({ input: lane("In", "horn") }));
  expect(state().picture).toBe("bands");
});

it("goes on with what was heard of a job where the page is drawn with what was there before", () => {
  const { session: listen, showing, state } = session();
  const now = jobWith(shown({ revision: "r2", output: lane("Out", "turned", 2, "after") }));
  listen.updateClips(now);
  showing(shown(), now);
  expect(state().lanes.map((one) => one.playable.key)).toEqual(["bell", "after"]);
  expect(state().shown.revision).toBe("r2");
});
