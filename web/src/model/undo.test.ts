/** Undo and redo against a plain model: however edits, answers and lost connections fall, nothing is lost or made twice. */
import { expect, it, vi } from "vitest";
import { client, type Job, type Problem } from "../api/client";
import { job } from "../api/testing";
import type { Edit } from "./edits";
import { Worksheet } from "./worksheet";

/** Numbers from 0 to 1, the same for the same seed (mulberry32, public domain). */
function random(seed: number) {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
  };
}

/** The values that another window adds. */
const THEIRS = 1_000;

/** What a history of values is: the one that holds, those before it, and those that were undone, each with its head. */
class History {
  private now: { head: number; values: readonly number[] } = { head: 0, values: [] };
  private past: History["now"][] = [];
  private future: History["now"][] = [];
  /** What was ever added, and what an undo took back of what another window had added. */
  readonly added: number[] = [];
  readonly undoneOfTheirs = new Set<number>();

  get values() {
    return this.now.values;
  }

  add(value: number) {
    this.added.push(value);
    this.past.push(this.now);
    this.future = [];
    this.now = { head: this.added.length, values: [...this.values, value] };
  }

  undo() {
    const before = this.past.pop();
    if (!before) return;
    const last = this.values.at(-1) ?? 0;
    if (last >= THEIRS) this.undoneOfTheirs.add(last);
    this.future.push(this.now);
    this.now = before;
  }

  redo() {
    const after = this.future.pop();
    if (!after) return;
    this.past.push(this.now);
    this.now = after;
  }

  get job(): Job {
    const more = { can_undo: this.past.length > 0, can_redo: this.future.length > 0 };
    return job([], { head: `h${this.now.head}`, name: this.values.join(), ...more });
  }
}

type Body = { base?: string; steps?: { names: string[] }[] };

/** A server that is reached, answers, or loses the connection before or after it has done what was asked. */
function serverOf(history: History) {
  const asked: {
    path: string;
    given: Body;
    resolve: (answer: unknown) => void;
    reject: (why: Error) => void;
  }[] = [];
  const ask = (path: string, { body, params }: { body?: Body; params: { query?: Body } }) =>
    new Promise((resolve, reject) =>
      asked.push({ path, given: { ...body, ...params.query }, resolve, reject }),
    );
  for (const method of ["GET", "POST"] as const) vi.spyOn(client, method).mockImplementation(ask as never);
  const done = (path: string, { base, steps }: Body) => {
    if (base !== undefined && base !== history.job.head) return false;
    if (path.endsWith("/steps")) history.add(Number(steps?.[0]?.names[0]));
    else if (path.endsWith("/undo")) history.undo();
    else if (path.endsWith("/redo")) history.redo();
    return true;
  };
  const answer = (lost: "no" | "before" | "after") => {
    const next = asked.shift();
    if (!next) return;
    const { path, given, resolve, reject } = next;
    const fits = lost === "before" || done(path, given);
    if (lost !== "no") reject(new TypeError("Failed to fetch"));
    else if (fits) resolve({ data: history.job, response: new Response(null, { status: 200 }) });
    else
      resolve({
        error: { code: "stale", message: "stale", help: "" },
        response: new Response(null, { status: 409 }),
      });
  };
  return { answer, isAsked: () => asked.length > 0 };
}

const add = (value: number): Edit => ({
  kind: "add",
  steps: [{ turn: { kind: "swap" }, inputs: [], names: [String(value)] }],
});

it.each(Array.from({ length: 120 }, (_, seed) => seed))(
  "comes to what a plain history comes to, by hands and answers of seed %i",
  async (seed) => {
    vi.useFakeTimers();
    const draw = random(seed);
    const [history, model] = [new History(), new History()];
    const server = serverOf(history);
    const sheet = new Worksheet("j");
    void sheet.look();
    server.answer("no");
    await vi.advanceTimersByTimeAsync(0);
    for (let n = 0; n < 40; n++) {
      const at = draw();
      if (at < 0.25) {
        model.add(n);
        sheet.do(add(n));
      } else if (at < 0.42) {
        model.undo();
        sheet.do({ kind: "undo" });
      } else if (at < 0.52) {
        model.redo();
        sheet.do({ kind: "redo" });
      } else if (at < 0.6) server.answer("before");
      else if (at < 0.65) server.answer("after");
      else server.answer("no");
      await vi.advanceTimersByTimeAsync(draw() < 0.2 ? 12_000 : 0);
    }
    for (let n = 0; n < 200; n++) {
      server.answer("no");
      await vi.advanceTimersByTimeAsync(n % 5 ? 0 : 12_000);
    }
    expect(server.isAsked()).toBe(false);
    expect(history.values).toEqual(model.values);
    expect(sheet.store.getState()).toMatchObject({
      changing: false,
      unsaved: 0,
      job: { head: history.job.head },
    });
    vi.useRealTimers();
  },
);

it.each(Array.from({ length: 80 }, (_, seed) => seed))(
  "loses nothing in silence, makes nothing twice and undoes no one else's work unasked, by seed %i",
  async (seed) => {
    vi.useFakeTimers();
    const draw = random(1_000 + seed);
    const history = new History();
    const server = serverOf(history);
    const told: string[] = [];
    const sheet = new Worksheet("j", (problem) => void told.push((problem as Problem).code));
    void sheet.look();
    server.answer("no");
    await vi.advanceTimersByTimeAsync(0);
    const made = new Map<number, Promise<unknown>>();
    for (let n = 0; n < 40; n++) {
      const at = draw();
      if (at < 0.25)
        made.set(
          n,
          sheet.edit(add(n)).catch((problem: Problem) => told.push(problem.code) && problem),
        );
      else if (at < 0.4) sheet.do({ kind: "undo" });
      else if (at < 0.48) sheet.do({ kind: "redo" });
      else if (at < 0.58) {
        history.add(THEIRS + n);
        sheet.changed(history.job.head);
      } else server.answer(at < 0.62 ? "before" : at < 0.66 ? "after" : "no");
      await vi.advanceTimersByTimeAsync(draw() < 0.2 ? 12_000 : 0);
    }
    for (let n = 0; n < 200; n++) {
      server.answer("no");
      await vi.advanceTimersByTimeAsync(n % 5 ? 0 : 12_000);
    }
    expect(server.isAsked()).toBe(false);
    expect(sheet.store.getState()).toMatchObject({
      changing: false,
      unsaved: 0,
      job: { head: history.job.head },
    });
    expect(new Set(history.added).size, "nothing was made twice").toBe(history.added.length);
    for (const [value, result] of made)
      if (!history.added.includes(value))
        expect(await result, `${value} was not made, and it is said`).toBeInstanceOf(Error);
    expect(history.undoneOfTheirs.size).toBeLessThanOrEqual(told.length);
    vi.useRealTimers();
  },
);
