/** Undo and redo against a plain model: however edits, answers and lost connections fall, nothing is lost or made twice. */
import { expect, it, vi } from "vitest";
import type { Job, Problem } from "../api/client";
import { job } from "../api/testing";
import type { Edit } from "./edits";
import { createServer, History, random } from "./testing";
import { Worksheet } from "./worksheet";

/** A worksheet of values, and the server that holds it. */
function worksheetOfValues(onProblem?: (problem: unknown) => void) {
  vi.useFakeTimers();
  const history = new History<readonly number[]>([]);
  const added: number[] = [];
  /** What an undo took back of what another window had added. */
  const undoneOfTheirs = new Set<number>();
  const undo = history.undo.bind(history);
  history.undo = () => {
    if (history.by === "another window") undoneOfTheirs.add(history.state.at(-1) ?? 0);
    undo();
  };
  const add = (value: number, by = "") => {
    added.push(value);
    history.add([...history.state, value], by);
  };
  const show = (): Job => job([], { head: history.head, name: history.state.join(), ...history.can });
  const server = createServer(history, show, (path, { steps }) => {
    if (path.endsWith("/steps")) add(Number((steps as { names: string[] }[])[0]?.names[0]));
  });
  const sheet = new Worksheet("j", onProblem);
  void sheet.look();
  server.answer("no");
  return { history, added, undoneOfTheirs, add, server, sheet };
}

const addEdit = (value: number): Edit => ({
  kind: "add",
  steps: [{ turn: { kind: "swap" }, inputs: [], names: [String(value)] }],
});

it.each(Array.from({ length: 120 }, (_, seed) => seed))(
  "comes to what a plain history comes to, by hands and answers of seed %i",
  async (seed) => {
    const draw = random(seed);
    const { history, server, sheet } = worksheetOfValues();
    const model = new History<readonly number[]>([]);
    await vi.advanceTimersByTimeAsync(0);
    for (let n = 0; n < 40; n++) {
      const at = draw();
      if (at < 0.25) {
        model.add([...model.state, n], "");
        sheet.do(addEdit(n));
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
    await server.settle();
    expect(server.isAsked()).toBe(false);
    expect(history.state).toEqual(model.state);
    expect(sheet.store.getState()).toMatchObject({
      changing: false,
      unsaved: 0,
      job: { head: history.head },
    });
    vi.useRealTimers();
  },
);

it.each(Array.from({ length: 80 }, (_, seed) => seed))(
  "loses nothing in silence, makes nothing twice and undoes no one else's work unasked, by seed %i",
  async (seed) => {
    const draw = random(1_000 + seed);
    const told: string[] = [];
    const tell = (problem: unknown) => void told.push((problem as Problem).code);
    const { history, added, undoneOfTheirs, add, server, sheet } = worksheetOfValues(tell);
    await vi.advanceTimersByTimeAsync(0);
    const made = new Map<number, Promise<unknown>>();
    for (let n = 0; n < 40; n++) {
      const at = draw();
      if (at < 0.25)
        made.set(
          n,
          sheet.edit(addEdit(n)).catch((problem: Problem) => told.push(problem.code) && problem),
        );
      else if (at < 0.4) sheet.do({ kind: "undo" });
      else if (at < 0.48) sheet.do({ kind: "redo" });
      else if (at < 0.58) {
        add(1_000 + n, "another window");
        sheet.changed(history.head);
      } else server.answer(at < 0.62 ? "before" : at < 0.66 ? "after" : "no");
      await vi.advanceTimersByTimeAsync(draw() < 0.2 ? 12_000 : 0);
    }
    await server.settle();
    expect(server.isAsked()).toBe(false);
    expect(sheet.store.getState()).toMatchObject({
      changing: false,
      unsaved: 0,
      job: { head: history.head },
    });
    expect(new Set(added).size, "nothing was made twice").toBe(added.length);
    for (const [value, result] of made)
      if (!added.includes(value))
        expect(await result, `${value} was not made, and it is said`).toBeInstanceOf(Error);
    expect(undoneOfTheirs.size).toBeLessThanOrEqual(told.length);
    vi.useRealTimers();
  },
);
