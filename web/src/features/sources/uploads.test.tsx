import { act, screen } from "@testing-library/react";
import { beforeEach, expect, it, onTestFinished, vi } from "vitest";
import { client, Problem } from "../../api/client";
import { job, source } from "../../api/testing";
import { upload } from "../../api/upload";
import { tell } from "../../shared/notices";
import { show } from "../../shared/testing";
import { UploadRows } from "./UploadRows";
import { UploadStore } from "./uploadStore";
import { type Uploads, useUploads } from "./uploads";

vi.mock("../../api/upload", () => ({ upload: vi.fn() }));
vi.mock("../../shared/notices", () => ({ tell: vi.fn() }));

type Sent = {
  name: string;
  progress: (share: number, lost: boolean) => void;
  arrive: (source: string) => void;
  fail: (problem: Problem) => void;
  signal: AbortSignal;
  salvage: boolean;
};
let sent: Sent[] = [];

beforeEach(() => {
  sent = [];
  vi.mocked(tell).mockClear();
  vi.mocked(upload).mockImplementation(
    (_, { file, salvage }, progress, signal) =>
      new Promise((arrive, fail) => {
        sent.push({ name: file.name, progress, arrive, fail, signal, salvage });
        signal.addEventListener("abort", () => fail(new Problem("stopped", "stopped", "")));
      }),
  );
});

/** The uploads of a job, and how many were left unfinished when the server was last asked. */
function uploads(unfinished: object[] = []) {
  vi.spyOn(client, "GET").mockImplementation((async () => ({
    data: unfinished,
    response: new Response(null, { status: 200 }),
  })) as never);
  const there = job([], { sources: [source("known")] });
  const store = new UploadStore();
  onTestFinished(() => store.stopAll("j"));
  let now = {} as Uploads;
  const Taking = () => {
    now = useUploads(there, store);
    return <p>{now.all.map((one) => `${one.file.name} ${one.problem?.message ?? one.share}`).join(", ")}</p>;
  };
  const { container, again } = show(<Taking />);
  const files = (...names: string[]) =>
    names.map((name) => ({ file: new File(["x"], name), folder: "takes" }));
  return {
    store,
    add: (...names: string[]) => act(async () => now.add(files(...names))),
    act: (does: (uploads: Uploads) => void) => act(async () => does(now)),
    text: () => container.textContent,
    unfinished: () => now.unfinished,
    leave: () => again(<p>elsewhere</p>),
    comeBack: () => again(<Taking />),
  };
}

function Rows({ store }: { store: UploadStore }) {
  return <UploadRows uploads={useUploads(job([], { sources: [] }), store)} />;
}

const names = () => sent.map((one) => one.name);

it("sends two files at a time, in order, and shows how far each has come", async () => {
  const { add, text } = uploads();
  await add("a.wav", "b.wav", "c.wav");
  expect(names()).toEqual(["a.wav", "b.wav"]);
  await act(async () => sent[1]?.progress(0.5, false));
  expect(text()).toBe("a.wav 0, b.wav 0.5, c.wav 0");
  await act(async () => sent[1]?.arrive("new"));
  expect(names()).toEqual(["a.wav", "b.wav", "c.wav"]);
  expect(text()).toBe("a.wav 0, c.wav 0");
});

it("keeps saying what was wrong with a file, and the others go on", async () => {
  const { add, text, act: does } = uploads();
  await add("a.wav", "b.wav", "c.wav");
  await act(async () => sent[0]?.fail(new Problem("not-audio", "a.wav is no audio file", "")));
  expect(names()).toContain("c.wav");
  expect(text()).toContain("a.wav is no audio file");
  await does((now) => now.dismiss(now.all[0]?.id ?? -1));
  expect(text()).not.toContain("a.wav");
});

it("tells that a file was there already", async () => {
  const { add } = uploads();
  await add("again.wav", "fresh.wav");
  await act(async () => sent[0]?.arrive("known"));
  await act(async () => sent[1]?.arrive("fresh"));
  expect(vi.mocked(tell).mock.calls.map(([title]) => title)).toEqual(["again.wav is already in this job"]);
});

it("tells once of all the files that were there already, when the last has come", async () => {
  vi.mocked(tell).mockClear();
  const { add } = uploads();
  await add("one.wav", "two.wav", "three.wav");
  for (const n of [0, 1, 2]) {
    expect(tell).not.toHaveBeenCalled();
    await act(async () => sent[n]?.arrive("known"));
  }
  expect(vi.mocked(tell).mock.calls.map(([title]) => title)).toEqual(["3 files are already in this job"]);
});

it("sends a file once more that failed, and takes away what is said of all that failed", async () => {
  const { add, act: does, text } = uploads();
  await add("a.wav", "b.wav");
  for (const n of [0, 1]) await act(async () => sent[n]?.fail(new Problem("http", "Server error (500)", "")));
  await does((now) => now.again(now.all[0]?.id ?? -1));
  expect(names()).toEqual(["a.wav", "b.wav", "a.wav"]);
  await does((now) => now.dismissFailed());
  expect(text()).toBe("a.wav 0");
});

it("sends a file again that broke off, to use what is there of it", async () => {
  const { add, store } = uploads();
  await add("sea.wav");
  await act(async () => sent[0]?.fail(new Problem("truncated", "sea.wav ends early", "", "2:14.3 of 3:00")));
  show(<Rows store={store} />);
  await act(async () => screen.getByRole("button", { name: "Use what is there: 2:14.3 of 3:00" }).click());
  expect(sent.map((one) => [one.name, one.salvage])).toEqual([
    ["sea.wav", false],
    ["sea.wav", true],
  ]);
  await act(async () => sent[1]?.arrive("new"));
  expect(screen.queryByText(/sea.wav/)).toBeNull();
});

it("stops all of them, the waiting ones too", async () => {
  const { add, act: does, text } = uploads();
  await add("a.wav", "b.wav", "c.wav");
  await does((now) => now.stopAll());
  expect(sent.every((one) => one.signal.aborted)).toBe(true);
  expect(names()).toEqual(["a.wav", "b.wav"]);
  expect(text()).toBe("");
});

it("stops one, and takes the next in its place", async () => {
  const { add, act: does } = uploads();
  await add("a.wav", "b.wav", "c.wav");
  await does((now) => now.dismiss(now.all[0]?.id ?? -1));
  expect(sent.map((one) => [one.name, one.signal.aborted])).toEqual([
    ["a.wav", true],
    ["b.wav", false],
    ["c.wav", false],
  ]);
});

it("says what broke off and is not on its way again", async () => {
  const left = { id: "u", name: "sea.wav", folder: "takes", size: 1, offset: 0 };
  const { add, unfinished } = uploads([left]);
  await vi.waitFor(() => expect(unfinished()).toEqual([left]));
  await add("sea.wav");
  expect(unfinished()).toEqual([]);
});

it("holds a page that is left while files are on their way, and no longer", async () => {
  const { add } = uploads();
  const leaving = () => {
    const event = new Event("beforeunload", { cancelable: true });
    window.dispatchEvent(event);
    return event.defaultPrevented;
  };
  expect(leaving()).toBe(false);
  await add("a.wav");
  expect(leaving()).toBe(true);
  await act(async () => sent[0]?.arrive("new"));
  expect(leaving()).toBe(false);
  expect(screen.queryByText("a.wav")).toBeNull();
});

it("goes on while another page is shown, and is there again on coming back", async () => {
  const { add, leave, comeBack, text } = uploads();
  await add("a.wav", "b.wav", "c.wav");
  leave();
  await act(async () => sent[0]?.arrive("new"));
  expect(names()).toEqual(["a.wav", "b.wav", "c.wav"]);
  await act(async () => sent[1]?.progress(0.5, false));
  comeBack();
  expect(text()).toBe("b.wav 0.5, c.wav 0");
});
