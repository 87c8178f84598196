/** A server for tests of edits: what it holds, its history, and answers that come when the test says so. */
import { vi } from "vitest";
import { client, type Job } from "../api/client";

/** Numbers from 0 to 1, the same for the same seed (mulberry32, public domain). */
export function random(seed: number) {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
  };
}

/** States that follow each other: the one that holds, those before it, and those that were undone, each with its head. */
export class History<T> {
  private now: { head: number; state: T; by: string };
  private past: History<T>["now"][] = [];
  private future: History<T>["now"][] = [];
  private heads = 0;

  constructor(first: T) {
    this.now = { head: 0, state: first, by: "" };
  }

  get state() {
    return this.now.state;
  }

  get head() {
    return `h${this.now.head}`;
  }

  /** Who or what made the state that holds. */
  get by() {
    return this.now.by;
  }

  /** The next state; `amending` takes the place of the one that holds. */
  add(state: T, by: string, amending = false) {
    if (!amending) this.past.push(this.now);
    this.future = [];
    this.now = { head: ++this.heads, state, by };
  }

  undo() {
    const before = this.past.pop();
    if (!before) return;
    this.future.push(this.now);
    this.now = before;
  }

  redo() {
    const after = this.future.pop();
    if (!after) return;
    this.past.push(this.now);
    this.now = after;
  }

  get can() {
    return { can_undo: this.past.length > 0, can_redo: this.future.length > 0 };
  }
}

type Body = Record<string, unknown> & { base?: string };

/** A server that is reached, answers, or loses the connection before or after it has done what was asked. */
export function createServer<T>(
  history: History<T>,
  show: () => Job,
  /** Do what was asked of a path that is neither undo nor redo. */
  act: (path: string, given: Body) => void,
) {
  const asked: {
    path: string;
    given: Body;
    resolve: (answer: unknown) => void;
    reject: (why: Error) => void;
  }[] = [];
  const ask = (
    path: string,
    { body, params }: { body?: Body; params: { query?: Body; path: Record<string, unknown> } },
  ) =>
    new Promise((resolve, reject) =>
      asked.push({ path, given: { ...body, ...params.query, ...params.path }, resolve, reject }),
    );
  for (const method of ["GET", "POST", "PATCH"] as const)
    vi.spyOn(client, method).mockImplementation(ask as never);
  const done = (path: string, given: Body) => {
    if (given.base !== undefined && given.base !== history.head) return false;
    if (path.endsWith("/undo")) history.undo();
    else if (path.endsWith("/redo")) history.redo();
    else act(path, given);
    return true;
  };
  const answer = (lost: "no" | "before" | "after") => {
    const next = asked.shift();
    if (!next) return;
    const { path, given, resolve, reject } = next;
    const fits = lost === "before" || done(path, given);
    if (lost !== "no") reject(new TypeError("Failed to fetch"));
    else if (fits) resolve({ data: show(), response: new Response(null, { status: 200 }) });
    else
      resolve({
        error: { code: "stale", message: "stale", help: "" },
        response: new Response(null, { status: 409 }),
      });
  };
  return {
    answer,
    isAsked: () => asked.length > 0,
    /** Answer everything, however often what could not be sent is sent again. */
    settle: async () => {
      for (let n = 0; n < 200 && (n < 20 || asked.length > 0); n++) {
        answer("no");
        await vi.advanceTimersByTimeAsync(n % 5 ? 0 : 12_000);
      }
    },
  };
}
