import { beforeEach, expect, it, vi } from "vitest";
import type { ToGraph } from "./messages";
import { Player, type Program } from "./player";

const RATE = 1000; // a block of half a second holds 500 frames
const sent: ToGraph[] = [];
let asked: string[] = [];

class Node {
  port = {
    onmessage: null as ((event: MessageEvent) => void) | null,
    postMessage: (message: ToGraph) => void sent.push(message),
  };
  static last: Node | null = null;
  constructor() {
    Node.last = this;
  }
  connect() {}
  disconnect() {}
}
class Context {
  audioWorklet = { addModule: async () => {} };
  destination = {};
  async resume() {}
  async close() {}
}

beforeEach(() => {
  sent.length = 0;
  asked = [];
  vi.stubGlobal("isSecureContext", true);
  vi.stubGlobal("AudioContext", Context);
  vi.stubGlobal("AudioWorkletNode", Node);
  vi.stubGlobal("fetch", async (url: string) => {
    asked.push(url);
    return new Response(new Float32Array(1000).buffer);
  });
});
const program = (key = "a", frames = 10_000): Program => {
  const view = { job: "j", revision: "r", clips: ["source:x"] };
  const side = (name: string) => ({ key: name, view, channels: 2 });
  return { sides: [side(`${key} in`), side(`${key} out`)], rate: RATE, frames };
};
const gains: [number[], number[]] = [
  [1, 0, 0, 1],
  [1, 0, 0, 1],
];
const blocks = (side: 0 | 1) =>
  sent.flatMap((message) => (message.kind === "block" && message.side === side ? [message.index] : []));
const hear = (position: number) =>
  Node.last?.port.onmessage?.({ data: { position, playing: true, waiting: false } } as MessageEvent);

async function playing(loop: [number, number] | null = null, from = 0) {
  const player = new Player();
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

it("says why there is no sound on an insecure page", async () => {
  vi.stubGlobal("isSecureContext", false);
  const player = await playing();
  expect(player.getState()).toMatchObject({ playing: false });
  expect(String(player.getState().problem)).toContain("localhost");
});

it("is ready when what is heard next of a changed clip has arrived, and at once where nothing plays", async () => {
  const quiet = new Player();
  quiet.load(program(), gains);
  await quiet.ready();
  expect(asked).toEqual([]);

  const player = await playing();
  hear(1_100);
  let answer = (_: Response) => {};
  vi.stubGlobal("fetch", () => new Promise<Response>((resolve) => (answer = resolve)));
  const changed = program();
  changed.sides[1] = { ...(changed.sides[1] as NonNullable<Program["sides"][1]>), key: "another out" };
  player.load(changed, gains);
  let ready = false;
  const done = player.ready().then(() => (ready = true));
  await Promise.resolve();
  expect(ready).toBe(false);
  sent.length = 0;
  answer(new Response(new Float32Array(1000).buffer));
  await done;
  expect(blocks(1)).toEqual([2]);
});
