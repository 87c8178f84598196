import { act } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { show } from "../shared/testing";
import { client } from "./client";
import { useServerEvents } from "./events";
import { useDeliveries, useJob } from "./queries";

class Stream extends EventTarget {
  static opened: Stream[] = [];
  constructor() {
    super();
    Stream.opened.push(this);
  }
  close = vi.fn();
  tell(kind: string, told: object = {}) {
    this.dispatchEvent(new MessageEvent(kind, { data: JSON.stringify(told) }));
  }
}

/** A page that looks at a job and its deliveries, and what it asks: each answer is given by hand. */
function page() {
  vi.useFakeTimers();
  vi.stubGlobal("EventSource", Stream);
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
    const job = useJob("j");
    const deliveries = useDeliveries("j");
    return (
      <p>
        {job.data?.name} {deliveries.data?.map((one) => one.progress).join()}
      </p>
    );
  };
  const shown = show(<Looking />);
  const of = (path: string) => asked.filter((one) => one.path === path);
  const later = (milliseconds: number) => act(() => vi.advanceTimersByTimeAsync(milliseconds));
  const answered = (path: string, data: unknown, nth = -1) => {
    of(path).at(nth)?.answer(data);
    return later(1);
  };
  const stream = Stream.opened.at(-1) as Stream;
  return { of, answered, later, stream, ...shown };
}

const JOB = "/api/jobs/{job_id}";
const DELIVERIES = "/api/jobs/{job_id}/deliveries";

it("looks once at a job about which much is told, and once more for what came while it looked", async () => {
  const { of, answered, later, stream } = page();
  await answered(JOB, { name: "Lamp" });
  for (let n = 0; n < 20; n++) stream.tell("measured", { job: "j" });
  await later(1_000);
  expect(of(JOB)).toHaveLength(2);
  for (let n = 0; n < 20; n++) stream.tell("measured", { job: "j" });
  await later(1_000);
  expect(of(JOB), "a look is finished before the next").toHaveLength(2);
  await answered(JOB, { name: "Lamp" });
  await later(1_000);
  expect(of(JOB)).toHaveLength(3);
  await answered(JOB, { name: "Lamp" });
  await later(5_000);
  expect(of(JOB)).toHaveLength(3);
});

it("shows what a job is after a change, not what a question from before it answers", async () => {
  const { of, answered, later, stream, container } = page();
  stream.tell("job-changed", { job: "j" });
  await later(1_000);
  expect(of(JOB)).toHaveLength(2);
  await answered(JOB, { name: "new" });
  await answered(JOB, { name: "old" }, 0);
  expect(container.textContent).toContain("new");
});

it("moves the bar of a delivery without asking, and asks when it has ended", async () => {
  const { of, answered, later, stream, container } = page();
  await answered(DELIVERIES, [{ id: "d", state: "writing", progress: 0.1 }]);
  stream.tell("delivery", { job: "j", delivery: "d", state: "writing", progress: 0.6 });
  await later(1);
  expect(container.textContent).toContain("0.6");
  expect(of(DELIVERIES)).toHaveLength(1);
  stream.tell("delivery", { job: "j", delivery: "d", state: "done", progress: 1 });
  await later(1);
  expect(of(DELIVERIES)).toHaveLength(2);
});

it("asks for all it shows when the stream comes back, and closes it with the page", async () => {
  const { of, answered, later, stream, unmount } = page();
  await answered(JOB, { name: "Lamp" });
  await answered(DELIVERIES, []);
  stream.tell("hello");
  await later(1);
  expect([of(JOB).length, of(DELIVERIES).length]).toEqual([2, 2]);
  unmount();
  expect(stream.close).toHaveBeenCalledOnce();
});
