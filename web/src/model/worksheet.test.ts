/** Edits one after the other, and undo. */
import { beforeEach, expect, it, vi } from "vitest";
import type { Problem } from "../api/client";
import { source } from "../api/testing";
import { at, level, settled, worksheet } from "./worksheetTesting";

beforeEach(() => void vi.useRealTimers());

it("makes edits one after the other, each on what the one before has made", async () => {
  const { worksheet: sheet, edits, shown } = await worksheet();
  sheet.do({ kind: "add", steps: [] });
  sheet.do({ kind: "lines", do: "remove", steps: ["a"] });
  expect(edits().map(({ body }) => body)).toEqual([{ steps: [], base: "r0" }]);
  expect(shown()).toMatchObject({ changing: true, job: { head: "r0" } });
  await edits()[0]?.answer("r1");
  expect(edits()[1]).toMatchObject({ method: "POST", body: { base: "r1", steps: ["a"] } });
  await edits()[1]?.answer("r2");
  expect(shown()).toMatchObject({ changing: false, job: { head: "r2" } });
});

it("says what it has become to who listens before it is drawn", async () => {
  const { worksheet: sheet, edits, shown } = await worksheet();
  const heard: string[] = [];
  sheet.onArrival((now) => heard.push(`${now.head} while ${shown().job?.head} is shown`));
  sheet.do({ kind: "undo" });
  await edits()[0]?.answer("r1");
  expect(heard).toEqual(["r1 while r0 is shown"]);
});

it("sends one change of a step at a time, and the last of those that came meanwhile", async () => {
  const { change, edits } = await worksheet();
  for (const db of [-1, -2, -3]) change("a", { turn: level(db) });
  expect(edits().map(({ body }) => body)).toEqual([{ base: "r0", turn: level(-1) }]);
  await edits()[0]?.answer("r1");
  expect(edits()[1]?.body).toMatchObject({ turn: level(-3) });
  await edits()[1]?.answer("r2");
  expect(edits()).toHaveLength(2);
});

it("makes a hand's way to a value one entry of the history, and what comes later another", async () => {
  const { change, edits } = await worksheet();
  change("a", { turn: level(-1) });
  await edits()[0]?.answer("r1");
  change("a", { turn: level(-2) });
  await edits()[1]?.answer("r2");
  await vi.advanceTimersByTimeAsync(2_000);
  change("a", { turn: level(-3) });
  expect(edits().map(({ body }) => body.amends)).toEqual([undefined, "r1", undefined]);
});

it("sends gestures apart that follow each other, and lets none take the place of another", async () => {
  const { worksheet: sheet, edits } = await worksheet();
  const change = (db: number, gesture: string) =>
    sheet.do({ kind: "change", step: "a", change: { turn: level(db) }, gesture });
  change(-1, "add 0");
  change(-2, "add 1");
  change(-3, "move 1");
  change(-4, "move 1");
  await edits()[0]?.answer("r1");
  await edits()[1]?.answer("r2");
  await edits()[2]?.answer("r3");
  change(-5, "move 1");
  expect(edits().map(({ body }) => body.amends)).toEqual([undefined, undefined, undefined, "r3"]);
  expect(edits()[2]?.body).toMatchObject({ turn: level(-4) });
});

it("shows waiting changes of every step until their answers have come", async () => {
  const { change, edits, shown } = await worksheet();
  change("a", { turn: level(-1) });
  change("a", { turn: level(-2), inputs: ["source:y", "source:x"] });
  change("b", { names: ["far"] });
  const steps = () => shown().job?.steps.map(({ turn, inputs, outputs }) => [turn, inputs, outputs[0]?.name]);
  const [a, b] = at("r0").steps;
  expect(steps()).toEqual([
    [level(-2), ["source:y", "source:x"], a?.outputs[0]?.name],
    [b?.turn, b?.inputs, "far"],
  ]);
  await edits()[0]?.answer("r1");
  expect(shown().job?.steps[0]?.turn).toEqual(level(-2));
  await edits()[1]?.answer("r2");
  await edits()[2]?.answer("r3");
  expect(shown().job?.steps[0]?.turn).toEqual(a?.turn);
});

it("shows files as put aside before the server has answered", async () => {
  const { worksheet: sheet, shown, asked } = await worksheet(false);
  void sheet.look();
  await asked[0]?.answer("r0", { sources: [source("x"), source("y")] });
  sheet.do({ kind: "archive", refs: ["source:x"], archived: true });
  expect(shown().job?.sources.map((one) => one.archived)).toEqual([true, false]);
});

it("gives up what was refused, says why, and goes on with the others", async () => {
  const { change, edits, problems, shown } = await worksheet();
  change("a", { turn: level(99) });
  change("b", { turn: level(-1) });
  await edits()[0]?.refuse("turn-input", 422);
  expect(problems.map((problem) => (problem as Problem).code)).toEqual(["turn-input"]);
  expect(edits()[1]?.body).toEqual({ base: "r0", turn: level(-1) });
  expect(shown().job?.steps[0]?.turn).toEqual(at("r0").steps[0]?.turn);
});

it("sends undo, redo and restore with what they take back", async () => {
  const { worksheet: sheet, edits } = await worksheet();
  for (const edit of [{ kind: "undo" }, { kind: "redo" }, { kind: "restore", revision: "r7" }] as const) {
    sheet.do(edit);
    await edits().at(-1)?.answer(`after ${edit.kind}`);
  }
  expect(edits().map(({ path, body }) => [path, body.base])).toEqual([
    ["/undo", "r0"],
    ["/redo", "after undo"],
    ["/revisions/{revision_id}/restore", "after redo"],
  ]);
});

it("takes back all of a drag that is still being sent", async () => {
  const { worksheet: sheet, change, edits, shown } = await worksheet();
  change("a", { turn: level(-1) });
  change("a", { turn: level(-2) });
  sheet.do({ kind: "undo" });
  expect(shown().job?.steps[0]?.turn, "on the page at once").toEqual(level(-1));
  await edits()[0]?.answer("r1");
  expect(edits()[1]?.body, "one entry of the history").toMatchObject({ turn: level(-2), amends: "r1" });
  await edits()[1]?.answer("r2");
  expect(edits()[2]).toMatchObject({ path: "/undo", body: { base: "r2" } });
  await edits()[2]?.answer("r0");
  expect(edits()).toHaveLength(3);
  expect(shown().job?.steps[0]?.turn).toEqual(at("r0").steps[0]?.turn);
});

it("does not undo another edit in place of one that is refused", async () => {
  const { worksheet: sheet, edits, problems } = await worksheet();
  sheet.do({ kind: "add", steps: [] });
  sheet.do({ kind: "lines", do: "remove", steps: ["b"] });
  for (const kind of ["undo", "undo", "redo", "undo"] as const) sheet.do({ kind });
  await edits()[0]?.refuse("turn-input", 422);
  for (const head of ["r1", "r0"]) await edits().at(-1)?.answer(head);
  expect(edits().map(({ path }) => path)).toEqual(["/steps", "/lines", "/undo"]);
  expect(problems).toHaveLength(1);
});

it("undoes as often as it is told, with an edit on its way and with none", async () => {
  const { worksheet: sheet, edits } = await worksheet();
  sheet.do({ kind: "lines", do: "remove", steps: ["a"] });
  sheet.do({ kind: "undo" });
  sheet.do({ kind: "undo" });
  for (const head of ["r1", "r0", "before"]) await edits().at(-1)?.answer(head);
  for (let n = 0; n < 4; n++) sheet.do({ kind: "undo" });
  for (let n = 0; n < 4; n++) await edits().at(-1)?.answer(`u${n}`);
  expect(edits().map(({ path, body }) => [path, body.base])).toEqual([
    ["/lines", "r0"],
    ["/undo", "r1"],
    ["/undo", "r0"],
    ["/undo", "before"],
    ["/undo", "u0"],
    ["/undo", "u1"],
    ["/undo", "u2"],
  ]);
});

it("undoes no further than there is something to undo", async () => {
  const { worksheet: sheet, edits, problems } = await worksheet();
  sheet.do({ kind: "undo" });
  sheet.do({ kind: "redo" });
  await edits()[0]?.answer("start", { can_undo: false });
  sheet.do({ kind: "undo" });
  await edits()[1]?.answer("start", { can_undo: false });
  sheet.do({ kind: "undo" });
  await settled();
  expect(edits().map(({ path }) => path)).toEqual(["/undo", "/redo"]);
  expect(problems).toEqual([]);
});
