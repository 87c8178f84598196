import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { openGraph } from "./graph";

/** An audio context that changes its state when it is told to. */
class Context {
  state = "running";
  onstatechange: (() => void) | null = null;
  destination = {};
  outputLatency = 0;
  audioWorklet = { addModule: async () => {} };
  private errors = new Set<() => void>();
  constructor({ sampleRate }: { sampleRate: number }) {
    if (sampleRate > 384_000) throw new DOMException("too high", "NotSupportedError");
    made = this;
  }
  resume = async () => {};
  close = async () => {};
  addEventListener = (_: string, told: () => void) => this.errors.add(told);
  removeEventListener = (_: string, told: () => void) => this.errors.delete(told);
  fail = () => {
    for (const told of this.errors) told();
  };
  become(state: string) {
    this.state = state;
    this.onstatechange?.();
  }
}

class Node {
  port = { onmessage: null, postMessage: () => {} };
  onprocessorerror: (() => void) | null = null;
  constructor() {
    node = this;
  }
  connect() {}
  disconnect() {}
}

let made: Context;
let node: Node;

beforeEach(() => {
  vi.stubGlobal("AudioContext", Context);
  vi.stubGlobal("AudioWorkletNode", Node);
  vi.stubGlobal("isSecureContext", true);
});
afterEach(() => vi.unstubAllGlobals());

const opened = async (ended = vi.fn()) => {
  const graph = await openGraph(48_000, () => {}, new AbortController().signal, ended);
  return { graph, ended };
};

it.each([
  ["the device goes", () => made.fail()],
  ["the context is interrupted", () => made.become("interrupted")],
  ["the processor fails", () => node.onprocessorerror?.()],
])("tells that the sound ended where %s", async (_, happen) => {
  const { ended } = await opened();
  happen();
  expect(ended.mock.calls[0]?.[0]).toMatchObject({ code: "sound-ended" });
});

it("tells nothing once it is closed by the page", async () => {
  const { graph, ended } = await opened();
  graph.close();
  made.become("closed");
  made.fail();
  expect(ended).not.toHaveBeenCalled();
});

it("says in a sentence that the browser has no such rate", async () => {
  const opening = openGraph(
    768_000,
    () => {},
    new AbortController().signal,
    () => {},
  );
  await expect(opening).rejects.toMatchObject({
    code: "rate-unsupported",
    message: expect.stringContaining("768 kHz"),
  });
});
