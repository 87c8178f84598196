import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { openGraph } from "./graph";

/** An audio context that changes its state when it is told to. */
class Context {
  state = "running";
  onstatechange: (() => void) | null = null;
  destination = {};
  baseLatency = 0.005;
  get outputLatency() {
    asked++;
    return 0.03;
  }
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
/** How often the browser was asked how late it is. */
let asked = 0;
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

it("says that there is no device where the sound does not begin", async () => {
  vi.useFakeTimers();
  class Waiting extends Context {
    override resume = () => new Promise<void>(() => {});
  }
  vi.stubGlobal("AudioContext", Waiting);
  const opening = opened();
  const refused = expect(opening).rejects.toMatchObject({ code: "no-sound-device" });
  await vi.advanceTimersByTimeAsync(10_000);
  await refused;
});

it("asks how late the sound is but in Firefox, which stands still where it is asked often", async () => {
  const { graph } = await opened();
  expect([graph.latency(), asked]).toEqual([0.03, 1]);
  vi.spyOn(navigator, "userAgent", "get").mockReturnValue(
    "Mozilla/5.0 (X11; rv:153.0) Gecko/20100101 Firefox/153.0",
  );
  expect([graph.latency(), asked]).toEqual([0.005, 1]);
});
