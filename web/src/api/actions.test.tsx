import { act } from "@testing-library/react";
import { beforeEach, expect, it, vi } from "vitest";
import { show } from "../shared/testing";
import { type JobActions, useIsChanging, useJobActions, useJobArrival } from "./actions";
import { client, type Job } from "./client";
import { useJob } from "./queries";
import { job } from "./testing";

beforeEach(() => void vi.useFakeTimers());
type Asked = { path: string; body: unknown; answer: (data: unknown, status?: number) => Promise<void> };

/** A page on a job at revision r0, and what it asks of the core, which answers by hand. */
async function page(arrived: (job: Job) => Promise<void> = async () => {}) {
  const asked: Asked[] = [];
  const ask = ((path: string, given: { body?: unknown }) =>
    new Promise((resolve) => {
      const answer = (data: unknown, status = 200) =>
        act(async () => {
          const response = new Response(null, { status });
          resolve(status === 200 ? { data, response } : { error: data, response });
          await vi.advanceTimersByTimeAsync(20);
        });
      asked.push({ path, body: given.body, answer });
    })) as never;
  vi.spyOn(client, "GET").mockImplementation(ask);
  vi.spyOn(client, "POST").mockImplementation(ask);
  let actions = {} as JobActions;
  const Page = () => {
    actions = useJobActions("j");
    useJobArrival("j", arrived);
    return <p>{`${useJob("j").data?.head} ${useIsChanging("j") ? "changing" : "settled"}`}</p>;
  };
  const { container } = show(<Page />);
  await asked[0]?.answer(job([], { head: "r0" }));
  const does = (act_: (actions: JobActions) => void) =>
    act(async () => {
      act_(actions);
      await vi.advanceTimersByTimeAsync(20);
    });
  return { asked, does, text: () => container.textContent };
}

const posted = (asked: Asked[]) => asked.filter((one) => one.path.endsWith("steps"));

it("makes changes one after the other, each on what the one before has made", async () => {
  const { asked, does, text } = await page();
  await does((actions) => {
    actions.add.mutate([]);
    actions.add.mutate([]);
  });
  expect(posted(asked).map((one) => one.body)).toEqual([{ steps: [], base: "r0" }]);
  expect(text()).toBe("r0 changing");
  await posted(asked)[0]?.answer(job([], { head: "r1" }));
  expect(posted(asked)[1]?.body).toEqual({ steps: [], base: "r1" });
  await posted(asked)[1]?.answer(job([], { head: "r2" }));
  expect(text()).toBe("r2 settled");
});

it("looks at the job again where another window was faster", async () => {
  const { asked, does, text } = await page();
  await does((actions) => actions.add.mutate([]));
  await posted(asked)[0]?.answer({ code: "stale", message: "Changed", help: "" }, 409);
  const looks = asked.filter((one) => one.path === "/api/jobs/{job_id}");
  expect(looks).toHaveLength(2);
  await looks[1]?.answer(job([], { head: "theirs" }));
  expect(text()).toBe("theirs settled");
});

it("shows a change when those who play it are ready, and does not wait for them for long", async () => {
  let ready = () => {};
  const { asked, does, text } = await page(
    () =>
      new Promise((resolve) => {
        ready = resolve;
      }),
  );
  await does((actions) => actions.add.mutate([]));
  await posted(asked)[0]?.answer(job([], { head: "r1" }));
  expect(text()).toBe("r0 changing");
  await act(async () => {
    ready();
    await vi.advanceTimersByTimeAsync(20);
  });
  expect(text()).toBe("r1 settled");
  await does((actions) => actions.add.mutate([]));
  await posted(asked)[1]?.answer(job([], { head: "r2" }));
  expect(text()).toBe("r1 changing");
  await act(() => vi.advanceTimersByTimeAsync(200));
  expect(text()).toBe("r2 settled");
});
