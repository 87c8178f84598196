import { expect, it, vi } from "vitest";
import type { Message } from "./eventStream";

/** The worker with a stream that is told by hand; `window()` connects one, and gives what it is sent. */
async function worker() {
  vi.resetModules();
  let tell = (_: Message) => {};
  vi.doMock("./eventStream", () => ({
    stream: (react: (message: Message) => void) => {
      tell = react;
    },
  }));
  const listen = vi.spyOn(globalThis, "addEventListener");
  await import("./events.worker");
  const connect = listen.mock.calls.find(([kind]) => kind === "connect")?.[1] as (event: unknown) => void;
  listen.mockRestore();
  const window = () => {
    const sent: string[] = [];
    connect({ ports: [{ postMessage: ({ kind }: Message) => sent.push(kind) }] });
    return sent;
  };
  return { window, tell: (kind: Message["kind"]) => tell({ kind, data: {} }) };
}

it("greets a window once, and calls nothing open before it is", async () => {
  const { window, tell } = await worker();
  const first = window();
  expect(first).toEqual([]);
  tell("open");
  tell("hello");
  expect(first).toEqual(["open", "hello"]);
  expect(window(), "a window that comes later").toEqual(["hello", "open"]);
  tell("lost");
  expect(window()).toEqual(["hello", "lost"]);
});
