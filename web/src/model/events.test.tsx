import { act } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { client } from "../api/client";
import { useDeliveries, useMeasures } from "../api/queries";
import { job } from "../api/testing";
import { show } from "../shared/testing";
import { connection, useServerEvents } from "./events";
import { useWorksheet, useWorksheetState } from "./useWorksheet";

class Stream extends EventTarget {
  static opened: Stream[] = [];
  static readonly CLOSED = 2;
  readyState = 1;
  onopen = () => {};
  onerror = () => {};
  constructor() {
    super();
    Stream.opened.push(this);
  }
  close = vi.fn();
  tell(kind: string, told: object = {}) {
    this.dispatchEvent(new MessageEvent(kind, { data: JSON.stringify(told) }));
  }
}

/** A page that looks at a job, its deliveries and measures, and what it asks: each answer is given by hand. */
function page() {
  vi.useFakeTimers();
  vi.stubGlobal("EventSource", Stream);
  Stream.opened = [];
  const asked: { path: string; answer: (data: unknown) => void }[] = [];
  vi.spyOn(client, "GET").mockImplementation(
    ((path: string) =>
      new Promise((resolve) => {
        asked.push({
          path,
          answer: (data) => resolve({ data, response: new Response(null, { status: 200 }) }),
        });
      })) as never,
  );
  const Looking = () => {
    useServerEvents();
    const { job } = useWorksheetState(useWorksheet("j", () => {}));
    const deliveries = useDeliveries("j");
    useMeasures({ job: "j", revision: "r", clips: ["source:x"] }, "x");
    return (
      <p>
        {job?.head} {deliveries.data?.map((one) => one.progress).join()}
      </p>
    );
  };
  const shown = show(<Looking />);
  const of = (path: string) => asked.filter((one) => one.path === path);
  const later = (milliseconds: number) => act(() => vi.advanceTimersByTimeAsync(milliseconds));
  const answered = (path: string, data: unknown) => {
    of(path).at(-1)?.answer(data);
    return later(1);
  };
  return { of, answered, later, stream: () => Stream.opened.at(-1) as Stream, ...shown };
}

const JOB = "/api/jobs/{job_id}";
const DELIVERIES = "/api/jobs/{job_id}/deliveries";
const MEASURES = "/api/jobs/{job_id}/revisions/{revision_id}/measures";
const at = (head: string) => job([], { head });

it("looks at a job that has changed, and not at one whose change is known", async () => {
  const { of, answered, later, stream, container } = page();
  await answered(JOB, at("r1"));
  stream().tell("job-changed", { job: "j", head: "r1" });
  stream().tell("job-changed", { job: "another" });
  await later(1_000);
  expect(of(JOB)).toHaveLength(1);
  stream().tell("job-changed", { job: "j", head: "r2" });
  await later(1_000);
  await answered(JOB, at("r2"));
  expect(container.textContent).toContain("r2");
  for (const kind of ["measured", "job-changed"]) {
    const before = of(JOB).length;
    stream().tell(kind, { job: "j" });
    await later(1_000);
    expect(of(JOB).length, kind).toBe(before + 1);
    await answered(JOB, at("r2"));
  }
});

it("moves the bar of a delivery without asking, and asks when it has ended", async () => {
  const { of, answered, later, stream, container } = page();
  await answered(DELIVERIES, [{ id: "d", state: "writing", progress: 0.1 }]);
  stream().tell("delivery", { job: "j", delivery: "d", state: "writing", progress: 0.6 });
  await later(1);
  expect(container.textContent).toContain("0.6");
  expect(of(DELIVERIES)).toHaveLength(1);
  stream().tell("delivery", { job: "j", delivery: "d", state: "done", progress: 1 });
  await later(1);
  expect(of(DELIVERIES)).toHaveLength(2);
});

it("asks again for what may have changed when the stream comes back, not when it first comes", async () => {
  const { of, answered, later, stream } = page();
  await answered(JOB, at("r1"));
  await answered(DELIVERIES, []);
  await answered(MEASURES, {});
  const asked = () => [of(JOB).length, of(DELIVERIES).length, of(MEASURES).length];
  stream().tell("hello");
  await later(1_000);
  expect(asked()).toEqual([1, 1, 1]);
  stream().tell("hello");
  await later(1_000);
  expect(asked()).toEqual([2, 2, 1]);
});

it("says when the server does not answer, and opens the stream anew where it was closed", async () => {
  const { later, stream, unmount } = page();
  const first = stream();
  first.onopen();
  expect(connection.getState().lost).toBe(false);
  first.onerror();
  expect(connection.getState().lost).toBe(true);
  await later(10_000);
  expect(Stream.opened, "it connects again by itself").toHaveLength(1);
  first.readyState = Stream.CLOSED;
  first.onerror();
  await later(3_000);
  expect(Stream.opened).toHaveLength(2);
  stream().onopen();
  expect(connection.getState().lost).toBe(false);
  unmount();
  expect(stream().close).toHaveBeenCalledOnce();
});
