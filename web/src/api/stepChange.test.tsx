import { act, renderHook } from "@testing-library/react";
import { beforeEach, expect, it, vi } from "vitest";
import type { JobActions, StepChange } from "./actions";
import type { Turn } from "./client";
import { useStepChange } from "./stepChange";

beforeEach(() => void vi.useFakeTimers());

const level = (db: number) => ({ kind: "level", gains_db: [db] }) as Turn;

/** A worksheet whose core answers when it is told to. */
function worksheet() {
  const sent: ({ step: string; amends?: string } & StepChange)[] = [];
  const open: { resolve: (job: { head: string }) => void; reject: (problem: Error) => void }[] = [];
  const mutateAsync = vi.fn((change: (typeof sent)[number]) => {
    sent.push(change);
    return new Promise((resolve, reject) => open.push({ resolve, reject }));
  });
  const onError = vi.fn();
  const actions = { change: { mutateAsync } } as unknown as JobActions;
  const hook = renderHook(({ head }) => useStepChange(actions, head, onError), {
    initialProps: { head: "r0" },
  });
  let answers = 0;
  return {
    sent,
    onError,
    change: (step: string, change: StepChange) =>
      act(async () => void hook.result.current.change(step, change)),
    drafts: () => hook.result.current.drafts,
    answered: async () => {
      const head = `r${++answers}`;
      await act(async () => open.shift()?.resolve({ head }));
      hook.rerender({ head });
    },
    failed: (problem: Error) => act(async () => open.shift()?.reject(problem)),
  };
}

it("sends one change at a time, and the last of those that came meanwhile", async () => {
  const { sent, change, answered } = worksheet();
  for (const db of [-1, -2, -3]) await change("a", { turn: level(db) });
  expect(sent).toEqual([{ step: "a", turn: level(-1) }]);
  await answered();
  expect(sent[1]).toMatchObject({ step: "a", turn: level(-3) });
  await answered();
  expect(sent).toHaveLength(2);
});

it("makes a hand's way to a value one entry of the history, and what comes later another", async () => {
  const { sent, change, answered } = worksheet();
  await change("a", { turn: level(-1) });
  await answered();
  await change("a", { turn: level(-2) });
  await answered();
  vi.advanceTimersByTime(2_000);
  await change("a", { turn: level(-3) });
  expect(sent.map((one) => one.amends)).toEqual([undefined, "r1", undefined]);
});

it("loses neither of two steps that are changed within one answer", async () => {
  const { sent, change, answered, drafts } = worksheet();
  await change("a", { turn: level(-1) });
  await change("a", { turn: level(-2) });
  await change("b", { turn: level(-8) });
  await change("b", { names: ["far"] });
  expect(drafts()).toEqual({ a: { turn: level(-2) }, b: { turn: level(-8), names: ["far"] } });
  for (let n = 0; n < 3; n++) await answered();
  expect(sent.slice(1)).toEqual([
    { step: "a", turn: level(-2), amends: "r1" },
    { step: "b", turn: level(-8), names: ["far"] },
  ]);
});

it("holds its drafts until the last answer has come", async () => {
  const { change, answered, drafts } = worksheet();
  await change("a", { turn: level(-1) });
  await change("a", { turn: level(-2) });
  await answered();
  expect(drafts()).toEqual({ a: { turn: level(-2) } });
  await answered();
  expect(drafts()).toEqual({});
});

it("gives up what was refused, says why, and goes on with the others", async () => {
  const { sent, change, failed, onError, drafts } = worksheet();
  await change("a", { turn: level(99) });
  await change("b", { turn: level(-1) });
  await failed(new Error("too loud"));
  expect(onError).toHaveBeenCalledWith(new Error("too loud"));
  expect(drafts()).toEqual({ b: { turn: level(-1) } });
  expect(sent[1]).toEqual({ step: "b", turn: level(-1) });
});
