/** Edits that wait for the server. */
import { beforeEach, expect, it, vi } from "vitest";
import type { Problem } from "../api/client";
import { level, steps, worksheet } from "./worksheetTesting";

beforeEach(() => void vi.useRealTimers());

it("keeps a note that waits where what was before it is undone", async () => {
  const { worksheet: sheet, edits, problems } = await worksheet();
  sheet.do({ kind: "lines", do: "remove", steps: ["a"] });
  sheet.do({ kind: "note", source: "x", note: "clicks", was: "" });
  sheet.do({ kind: "undo" });
  for (const head of ["r1", "r1", "r0"]) await edits().at(-1)?.answer(head);
  expect(edits().map(({ path }) => path)).toEqual(["/lines", "/sources/{source_id}", "/undo"]);
  expect(problems).toEqual([]);
});

it("keeps edits that don't reach the server, shows them, and sends them in order once it answers", async () => {
  const { worksheet: sheet, change, edits, problems, shown } = await worksheet();
  change("a", { turn: level(-1) });
  await edits()[0]?.lose();
  change("a", { turn: level(-2) });
  sheet.do({ kind: "lines", do: "remove", steps: ["b"] });
  expect(edits()).toHaveLength(2);
  await edits()[1]?.lose();
  expect(shown()).toMatchObject({ changing: true, job: { head: "r0" } });
  expect(shown().job?.steps[0]?.turn).toEqual(level(-2));
  await vi.advanceTimersByTimeAsync(1_000);
  expect(edits(), "twice as long after the second time").toHaveLength(2);
  await vi.advanceTimersByTimeAsync(1_000);
  expect(edits()[2]?.body).toEqual({ base: "r0", turn: level(-2) });
  await edits()[2]?.answer("r1");
  expect(edits()[3]).toMatchObject({ path: "/lines", body: { base: "r1", steps: ["b"] } });
  await edits()[3]?.answer("r2");
  expect(shown()).toMatchObject({ changing: false, job: { head: "r2" } });
  expect(problems).toEqual([]);
});

it("shows at once what an undo will take back of the edits that wait for the server", async () => {
  const { worksheet: sheet, change, edits, shown } = await worksheet();
  change("a", { turn: level(-1) });
  await edits()[0]?.lose();
  expect(shown()).toMatchObject({ unsaved: 1 });
  const turn = () => shown().job?.steps[0]?.turn;
  sheet.do({ kind: "undo" });
  expect(turn()).toEqual(steps[0]?.turn);
  sheet.do({ kind: "redo" });
  expect([turn(), shown().unsaved]).toEqual([level(-1), 3]);
  await vi.advanceTimersByTimeAsync(2_000);
  for (const head of ["r1", "r0", "r1"]) await edits().at(-1)?.answer(head);
  expect(edits().map(({ path }) => path)).toEqual(["/steps/{step_id}", "/steps/{step_id}", "/undo", "/redo"]);
  expect(shown()).toMatchObject({ changing: false, unsaved: 0 });
});

it("does not make an edit twice that had arrived before the connection was lost, and says what to check", async () => {
  const { worksheet: sheet, edits, looks, problems, shown } = await worksheet();
  sheet.do({ kind: "lines", do: "duplicate", steps: ["b"] });
  await edits()[0]?.lose();
  await vi.advanceTimersByTimeAsync(1_000);
  await edits()[1]?.refuse("stale");
  await looks()[0]?.answer("r1");
  expect(edits()).toHaveLength(2);
  expect(shown()).toMatchObject({ changing: false, job: { head: "r1" } });
  expect((problems[0] as Problem).message).toBe("Check whether this was saved: duplicating line 2 (merge)");
});

it("sends again what waited where the worksheet has changed meanwhile and it is the same made twice", async () => {
  const { change, edits, looks, problems } = await worksheet();
  change("a", { turn: level(-1) });
  await edits()[0]?.lose();
  await vi.advanceTimersByTimeAsync(1_000);
  await edits()[1]?.refuse("stale");
  await looks()[0]?.answer("theirs");
  expect(edits()[2]?.body).toEqual({ base: "theirs", turn: level(-1) });
  await edits()[2]?.answer("r2");
  expect(problems).toEqual([]);
});

it("says what was meant where an edit that waited no longer fits", async () => {
  const { worksheet: sheet, edits, problems } = await worksheet();
  sheet.do({ kind: "undo" });
  await edits()[0]?.lose();
  sheet.do({ kind: "change", step: "b", change: { turn: level(-3) } });
  await vi.advanceTimersByTimeAsync(1_000);
  await edits()[1]?.answer("r1");
  await edits()[2]?.refuse("turn-not-found", 404);
  expect(problems.map((one) => [(one as Problem).message, (one as Problem).help])).toEqual([
    ["Not saved: the change of line 2 (merge)", "turn-not-found"],
  ]);
});

it("sends what was entered before the job was there once it is", async () => {
  const { worksheet: sheet, asked, edits } = await worksheet(false);
  void sheet.look();
  sheet.do({ kind: "undo" });
  expect(edits()).toEqual([]);
  await asked[0]?.answer("r0");
  expect(edits()[0]?.body).toEqual({ base: "r0" });
});
