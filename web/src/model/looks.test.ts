/** Looking at the job, and what is told of it. */
import { beforeEach, expect, it, vi } from "vitest";
import type { Problem } from "../api/client";
import { settled, steps, worksheet } from "./worksheetTesting";

beforeEach(() => void vi.useRealTimers());

it("looks at the job again where another window was faster, and goes on from there", async () => {
  const { worksheet: sheet, edits, looks, problems, shown } = await worksheet();
  sheet.do({ kind: "undo" });
  sheet.do({ kind: "lines", do: "remove", steps: ["b"] });
  await edits()[0]?.refuse("stale");
  await looks()[0]?.answer("theirs");
  expect((problems[0] as Problem).code).toBe("stale");
  expect(shown().job?.head).toBe("theirs");
  expect(edits()[1]?.body).toMatchObject({ base: "theirs" });
});

it("does not undo unasked what another window has done", async () => {
  const { worksheet: sheet, edits, looks, problems } = await worksheet();
  sheet.changed("theirs");
  await vi.advanceTimersByTimeAsync(1_000);
  await looks()[0]?.answer("theirs");
  sheet.do({ kind: "undo" });
  await settled();
  expect([edits().length, (problems[0] as Problem).message]).toEqual([
    0,
    "The last change was made in another window",
  ]);
  sheet.do({ kind: "undo" });
  expect(edits()).toHaveLength(1);
});

it("keeps what has not changed as it was, so that it is not drawn again", async () => {
  const { worksheet: sheet, edits, shown } = await worksheet();
  const before = shown().job;
  sheet.do({ kind: "lines", do: "bypass", steps: ["b"] });
  await edits()[0]?.answer("r1", { steps: steps.map((step) => ({ ...step, bypassed: step.id === "b" })) });
  const after = shown().job;
  expect(after?.steps.map((step, n) => step === before?.steps[n])).toEqual([true, false]);
  expect([after?.sources === before?.sources, after?.steps[1]?.bypassed]).toEqual([true, true]);
});

it("does not ask about a change that it knows: its own", async () => {
  const { worksheet: sheet, edits, looks } = await worksheet();
  sheet.do({ kind: "add", steps: [] });
  sheet.changed("r1");
  await edits()[0]?.answer("r1");
  sheet.changed("r1");
  await vi.advanceTimersByTimeAsync(1_000);
  expect(looks()).toEqual([]);
  sheet.changed("theirs");
  await vi.advanceTimersByTimeAsync(1_000);
  expect(looks()).toHaveLength(1);
});

it("knows an edit of its own that it is told of late, and looks where another window has gone back to it", async () => {
  const { worksheet: sheet, edits, looks } = await worksheet();
  sheet.do({ kind: "add", steps: [] });
  sheet.do({ kind: "add", steps: [] });
  await edits()[0]?.answer("r1");
  await edits()[1]?.answer("r2");
  sheet.changed("r1");
  sheet.changed("r2");
  await vi.advanceTimersByTimeAsync(1_000);
  expect(looks()).toEqual([]);
  sheet.changed("r1");
  await vi.advanceTimersByTimeAsync(1_000);
  expect(looks()).toHaveLength(1);
});

it("looks once at a job about which much is told, and once more for what came while it looked", async () => {
  const { worksheet: sheet, looks } = await worksheet();
  for (let n = 0; n < 20; n++) sheet.changed();
  await vi.advanceTimersByTimeAsync(1_000);
  expect(looks()).toHaveLength(1);
  for (let n = 0; n < 20; n++) sheet.changed();
  await vi.advanceTimersByTimeAsync(1_000);
  expect(looks(), "a look is finished before the next").toHaveLength(1);
  await looks()[0]?.answer("r1");
  await vi.advanceTimersByTimeAsync(1_000);
  expect(looks()).toHaveLength(2);
  await looks()[1]?.answer("r2");
  await vi.advanceTimersByTimeAsync(5_000);
  expect(looks()).toHaveLength(2);
});

it("believes no look that was begun before an edit was answered", async () => {
  const { worksheet: sheet, edits, looks, shown } = await worksheet();
  void sheet.look();
  sheet.do({ kind: "add", steps: [] });
  await edits()[0]?.answer("r1");
  await looks()[0]?.answer("r0");
  expect(shown().job?.head).toBe("r1");
  await vi.advanceTimersByTimeAsync(1_000);
  await looks()[1]?.answer("r1");
  expect(shown().job?.head).toBe("r1");
});

it("undoes an edit of its own that a look has seen before its answer came", async () => {
  const { worksheet: sheet, edits, looks, problems } = await worksheet();
  void sheet.look();
  sheet.do({ kind: "add", steps: [] });
  await looks()[0]?.answer("r1");
  await edits()[0]?.answer("r1");
  sheet.do({ kind: "undo" });
  await settled();
  expect(problems).toEqual([]);
  expect(edits()[1]?.path).toBe("/undo");
});

it("keeps what is shown where a look fails, and says so until one succeeds", async () => {
  const { worksheet: sheet, looks, shown } = await worksheet();
  void sheet.look();
  await looks()[0]?.refuse("error", 500);
  expect(shown()).toMatchObject({ job: { head: "r0" }, problem: { code: "error" } });
  void sheet.look();
  await looks()[1]?.answer("r1");
  expect(shown()).toMatchObject({ job: { head: "r1" }, problem: null });
});
