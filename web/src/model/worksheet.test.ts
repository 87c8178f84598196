import { beforeEach, expect, it, vi } from "vitest";
import { client, type Job, type Problem, type Turn } from "../api/client";
import { job, mergeStep, source } from "../api/testing";
import { Worksheet } from "./worksheet";

type Asked = {
  method: string;
  path: string;
  body: Record<string, unknown>;
  /** Answer with the job at this head, or with an error. */
  answer: (head: string, more?: Partial<Job>) => Promise<void>;
  refuse: (code: string, status?: number) => Promise<void>;
  /** As a server that is not there. */
  lose: () => Promise<void>;
};
const settled = async () => void (await vi.advanceTimersByTimeAsync(0));
const level = (db: number) => ({ kind: "level", gains_db: [db] }) as Turn;
const steps = [mergeStep({ id: "a" }), mergeStep({ id: "b" })];
const at = (head: string, more: Partial<Job> = {}) =>
  job(steps, { head, can_undo: true, can_redo: true, ...more });

/** A worksheet at revision r0, and what it asks of a server that answers when it is told to. */
async function worksheet(looked = true) {
  vi.useFakeTimers();
  const asked: Asked[] = [];
  for (const method of ["GET", "POST", "PATCH", "DELETE"] as const)
    vi.spyOn(client, method).mockImplementation(
      ((path: string, given: never) =>
        new Promise((resolve, reject) => {
          const { body, params } = given as { body?: object; params: { query?: object } };
          asked.push({
            method,
            path: path.replace("/api/jobs/{job_id}", ""),
            body: { ...body, ...params.query },
            answer: (head, more) => {
              resolve({ data: at(head, more), response: new Response(null, { status: 200 }) });
              return settled();
            },
            lose: () => {
              reject(new TypeError("Failed to fetch"));
              return settled();
            },
            refuse: (code, status = 409) => {
              resolve({ error: { code, message: code, help: "" }, response: new Response(null, { status }) });
              return settled();
            },
          });
        })) as never,
    );
  const problems: unknown[] = [];
  const store = new Worksheet("j", (problem) => void problems.push(problem));
  if (looked) {
    void store.look();
    await asked[0]?.answer("r0");
    asked.length = 0;
  }
  const shown = () => store.store.getState();
  const change = (step: string, change: object) => store.do({ kind: "change", step, change });
  const looks = () => asked.filter((one) => one.method === "GET");
  const edits = () => asked.filter((one) => one.method !== "GET");
  return { worksheet: store, asked, shown, change, looks, edits, problems };
}

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

it("sends what was entered before the job was there once it is", async () => {
  const { worksheet: sheet, asked, edits } = await worksheet(false);
  void sheet.look();
  sheet.do({ kind: "undo" });
  expect(edits()).toEqual([]);
  await asked[0]?.answer("r0");
  expect(edits()[0]?.body).toEqual({ base: "r0" });
});
