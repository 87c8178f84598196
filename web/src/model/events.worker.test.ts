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
    const port = {
      postMessage: ({ kind }: Message) => void sent.push(kind),
      onmessage: (_: { data: string }) => {},
    };
    connect({ ports: [port] });
    return Object.assign(sent, { says: (data: string) => port.onmessage({ data }) });
  };
  return { window, tell: (kind: Message["kind"]) => tell({ kind, data: {} }) };
}

it("greets a window once, and calls nothing open before it is", async () => {
  const { window, tell } = await worker();
  const first = window();
  expect([...first]).toEqual([]);
  tell("open");
  tell("hello");
  expect([...first]).toEqual(["open", "hello"]);
  expect([...window()], "a window that comes later").toEqual(["hello", "open"]);
  tell("lost");
  expect([...window()]).toEqual(["hello", "lost"]);
});

it("tells a page nothing while it is gone, and greets it where it comes back as it was", async () => {
  const { window, tell } = await worker();
  tell("open");
  tell("hello");
  const page = window();
  page.says("leave");
  tell("measured");
  expect([...page]).toEqual(["hello", "open"]);
  page.says("join");
  tell("measured");
  expect([...page]).toEqual(["hello", "open", "hello", "open", "measured"]);
});
