import { beforeEach, expect, it, vi } from "vitest";
import { Problem } from "../../api/client";
import type { Program } from "./blocks";
import type { Graph } from "./graph";
import type { FromGraph, ToGraph } from "./messages";
import { Player } from "./player";

const RATE = 1000; // a block of half a second holds 500 frames

/** Graphs that open when they are told to, and what they were sent. */
class Graphs {
  readonly opened: {
    rate: number;
    report: (message: FromGraph) => void;
    signal: AbortSignal;
    open: () => void;
    fail: (problem: unknown) => void;
    ended: (problem: Problem) => void;
    closed: boolean;
  }[] = [];
  latency = 0;

  constructor(private atOnce = true) {}

  open = (
    rate: number,
    report: (message: FromGraph) => void,
    signal: AbortSignal,
    ended: (problem: Problem) => void,
  ) =>
    new Promise<Graph>((resolve, reject) => {
      const graph = { rate, report, signal, ended, closed: false, fail: reject, open: () => {} };
      graph.open = () =>
        resolve({
          send: (message) => {
            sent.push(message);
            if ("epoch" in message) epoch = message.epoch;
          },
          latency: () => this.latency,
          close: () => {
            graph.closed = true;
          },
        });
      this.opened.push(graph);
      if (this.atOnce) graph.open();
    });

  get last() {
    return this.opened.at(-1) as Graphs["opened"][number];
  }
}

let graphs = new Graphs();
const sent: ToGraph[] = [];
let asked: string[] = [];
let epoch = 0;

beforeEach(() => {
  graphs = new Graphs();
  sent.length = 0;
  asked = [];
  vi.stubGlobal("fetch", async (url: string) => {
    asked.push(url);
    return new Response(new Float32Array(1000).buffer);
  });
});
const program = (key = "a", frames = 10_000): Program => {
  const view = { job: "j", revision: "r", clips: ["source:x"] };
  const side = (name: string) => ({ key: name, view, channels: 2, later: 0 });
  return { sides: [side(`${key} in`), side(`${key} out`)], rate: RATE, frames };
};
const gains: [number[], number[]] = [
  [1, 0, 0, 1],
  [1, 0, 0, 1],
];
const blocks = (side: 0 | 1) =>
  sent.flatMap((message) => (message.kind === "block" && message.side === side ? [message.index] : []));
const hear = (position: number, change: Partial<FromGraph> = {}) =>
  graphs.last.report({ epoch, position, playing: true, waiting: false, heard: null, ...change });
const plays = () => sent.flatMap((message) => (message.kind === "play" ? [message.playing] : []));

async function playing(loop: [number, number] | null = null, from = 0) {
  const player = new Player(graphs.open);
  player.load(program(), gains);
  player.setLoop(loop);
  player.seek(from);
  await player.play();
  return player;
}

it("fetches six blocks ahead of the position, for both sides alike", async () => {
  await playing(null, 600);
  expect(blocks(0)).toEqual([1, 2, 3, 4, 5, 6]);
  expect(blocks(1)).toEqual([1, 2, 3, 4, 5, 6]);
  expect(asked[0]).toContain("start=500&frames=500");
});

it("asks for what begins later by its own time", async () => {
  const player = new Player(graphs.open);
  const { sides, ...rest } = program();
  player.load({ ...rest, sides: [sides[0], sides[1] && { ...sides[1], later: 700 }] }, gains);
  await player.play();
  expect(asked.slice(0, 2).map((url) => /start=(-?\d+)/.exec(url)?.[1])).toEqual(["0", "-700"]);
  expect(asked.at(-1)).toContain(`start=${5 * 500 - 700}&`);
});

it("fetches round a loop and not past it", async () => {
  await playing([1_200, 2_100], 1_800);
  expect(blocks(0)).toEqual([3, 4, 2]);
});

it("fetches what comes next and drops what is behind", async () => {
  await playing();
  sent.length = 0;
  hear(1_100);
  await vi.waitFor(() => expect(blocks(1)).toEqual([6, 7]));
  const dropped = sent.flatMap((m) => (m.kind === "drop" && m.side === 0 ? [m.index] : []));
  expect(dropped).toEqual([0, 1]);
});

it("keeps what it holds where a change left the samples as they were", async () => {
  const player = await playing();
  sent.length = 0;
  const changed = program();
  changed.sides[1] = { ...(changed.sides[1] as NonNullable<Program["sides"][1]>), key: "another out" };
  player.load(changed, gains);
  await vi.waitFor(() => expect(blocks(1)).toHaveLength(6));
  expect(blocks(0)).toEqual([]);
});

it.each([
  ["in the middle of a block that block alone", null, 1_100, [2]],
  ["near its end the next one too", null, 1_400, [2, 3]],
  ["near the end of a loop its start too", [1_200, 2_100] as [number, number], 2_000, [4, 2]],
])("asks for what is heard soon before everything else: %s", async (_, loop, from, soon) => {
  const answers: Array<(_: Response) => void> = [];
  vi.stubGlobal("fetch", (url: string) => {
    asked.push(url);
    return new Promise<Response>((answer) => void answers.push(answer));
  });
  void playing(loop, from);
  await vi.waitFor(() => expect(asked).not.toEqual([]));
  const first = new Set(asked.map((url) => Number(/start=(\d+)/.exec(url)?.[1]) / 500));
  expect([...first]).toEqual(soon);
  for (const answer of answers.splice(0)) answer(new Response(new Float32Array(1000).buffer));
  await vi.waitFor(() => expect(answers).not.toEqual([]));
});

it("starts again from the beginning after the end", async () => {
  const player = await playing(null, 10_000);
  expect(player.position).toBe(0);
});

it("stops and says so when a block cannot be had", async () => {
  vi.stubGlobal(
    "fetch",
    async () => new Response(JSON.stringify({ message: "gone", code: "x" }), { status: 404 }),
  );
  const player = await playing();
  expect(player.getState().playing).toBe(false);
  expect(String(player.getState().problem)).toContain("gone");
});

it("plays nothing where it was paused while the graph opened", async () => {
  graphs = new Graphs(false);
  const player = new Player(graphs.open);
  player.load(program(), gains);
  const played = player.play();
  player.pause();
  graphs.last.open();
  await played;
  expect(plays()).toEqual([]);
  expect(player.getState()).toMatchObject({ playing: false, waiting: false });
});

it("opens one graph however often play and pause are pressed while it opens", async () => {
  graphs = new Graphs(false);
  const player = new Player(graphs.open);
  player.load(program(), gains);
  const played = [player.play()];
  player.pause();
  played.push(player.play());
  graphs.last.open();
  await Promise.all(played);
  expect(graphs.opened).toHaveLength(1);
  expect(plays()).toEqual([true]);
});

it("starts where it was sent while the graph opened", async () => {
  graphs = new Graphs(false);
  const player = new Player(graphs.open);
  player.load(program(), gains);
  const played = player.play();
  player.seek(1_600);
  graphs.last.open();
  await played;
  expect(sent.findLast((message) => message.kind === "seek")).toMatchObject({ position: 1_600 });
  expect(blocks(0)[0]).toBe(3);
});

it("never plays at the rate of another file that was chosen while the graph opened", async () => {
  graphs = new Graphs(false);
  const player = new Player(graphs.open);
  player.load(program(), gains);
  const played = player.play();
  player.load({ ...program("b"), rate: 2 * RATE }, gains);
  graphs.opened[0]?.open();
  await played;
  expect(graphs.opened[0]?.closed).toBe(true);
  expect(player.getState().playing).toBe(false);
  const again = player.play();
  graphs.last.open();
  await again;
  expect(graphs.opened.map((graph) => graph.rate)).toEqual([RATE, 2 * RATE]);
  expect(plays()).toEqual([true]);
});

it("says why a graph could not be opened, and opens one the next time", async () => {
  graphs = new Graphs(false);
  const player = new Player(graphs.open);
  player.load(program(), gains);
  const played = player.play();
  graphs.last.fail(new Error("no sound here"));
  await played;
  expect(String(player.getState().problem)).toContain("no sound here");
  expect(player.getState().playing).toBe(false);
  const again = player.play();
  graphs.last.open();
  await again;
  expect(plays()).toEqual([true]);
});

it("closes a graph that opens after the player was closed", async () => {
  graphs = new Graphs(false);
  const player = new Player(graphs.open);
  player.load(program(), gains);
  const played = player.play();
  player.close();
  graphs.last.open();
  await played;
  expect(graphs.last.closed).toBe(true);
  expect(plays()).toEqual([]);
});

it("believes no report from before a seek or a pause, nor from a graph that was closed", async () => {
  const player = await playing();
  hear(400);
  const before = epoch;
  player.seek(3_000);
  hear(480, { epoch: before });
  expect(player.position).toBe(3_000);
  player.pause();
  hear(3_100, { epoch: epoch - 1 });
  expect(player.getState().playing).toBe(false);
  const old = graphs.last;
  player.load({ ...program("b"), rate: 2 * RATE }, gains);
  old.report({ epoch, position: 9, playing: true, waiting: false, heard: null });
  expect(player.getState().playing).toBe(false);
});

it("tells the position and what is heard when it reaches the ear", async () => {
  vi.useFakeTimers();
  graphs.latency = 0.2;
  const player = new Player(graphs.open);
  const ear = vi.fn();
  player.listen(ear);
  player.load(program(), gains);
  await player.play();
  hear(600, { heard: new Float32Array(4) });
  await vi.advanceTimersByTimeAsync(150);
  expect(player.position).toBe(0);
  expect(ear).not.toHaveBeenCalled();
  await vi.advanceTimersByTimeAsync(60);
  expect(player.position).toBe(600);
  expect(ear).toHaveBeenCalledOnce();
});

it("sends who is heard with every block and setup", async () => {
  await playing();
  const setup = sent.find((message) => message.kind === "sides");
  expect(setup?.kind === "sides" && setup.sides.map(({ clip, key }) => [clip, key])).toEqual([
    ["source:x", "a in"],
    ["source:x", "a out"],
  ]);
  const block = sent.find((message) => message.kind === "block");
  expect(block).toMatchObject({ clip: "source:x", key: "a in" });
});

it("asks for nothing of a setting that moved on while what is heard next was on its way", async () => {
  const answers: Array<() => void> = [];
  vi.stubGlobal(
    "fetch",
    (url: string) =>
      new Promise<Response>((resolve) => {
        asked.push(url);
        answers.push(() => resolve(new Response(new Float32Array(1000).buffer)));
      }),
  );
  const player = new Player(graphs.open);
  const at = (revision: string): Program => {
    const { sides, ...rest } = program(revision);
    const moved = sides.map((side) => side && { ...side, key: revision, view: { ...side.view, revision } });
    return { ...rest, sides: moved as Program["sides"] };
  };
  player.load(at("r1"), gains);
  void player.play();
  await vi.waitFor(() => expect(answers).toHaveLength(2));
  player.load(at("r2"), gains);
  while (answers.length) {
    answers.shift()?.();
    await Promise.resolve();
    await new Promise((resolve) => setTimeout(resolve, 1));
  }
  const later = asked.filter((url) => !url.includes("start=0&"));
  expect(later).not.toEqual([]);
  expect(later.filter((url) => url.includes("/r1/"))).toEqual([]);
  expect(blocks(1)).toEqual([0, 1, 2, 3, 4, 5]);
});

it("says that the sound ended by itself, and opens another graph when it is tried again", async () => {
  const player = new Player(graphs.open);
  player.load(program(), [[1], [1]]);
  await player.play();
  const first = graphs.last;
  first.ended(new Problem("sound-ended", "The sound ended", ""));
  expect(first.closed).toBe(true);
  expect(player.getState()).toMatchObject({ playing: false, problem: { code: "sound-ended" } });
  await player.play();
  expect(graphs.last).not.toBe(first);
  expect(player.getState()).toMatchObject({ playing: true, problem: null });
});

it("says nothing of a device that goes while nothing plays, or after the graph was closed", async () => {
  const player = new Player(graphs.open);
  player.load(program(), [[1], [1]]);
  await player.play();
  player.pause();
  graphs.last.ended(new Problem("sound-ended", "The sound ended", ""));
  expect(player.getState().problem).toBe(null);
  await player.play();
  const { ended } = graphs.last;
  player.close();
  ended(new Problem("sound-ended", "The sound ended", ""));
  expect(player.getState()).toMatchObject({ playing: false, problem: null });
});
