import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, renderHook } from "@testing-library/react";
import type { ReactNode } from "react";
import { expect, it, vi } from "vitest";
import { createStore } from "zustand/vanilla";
import type { Job, Question } from "../api/client";
import type { Edit } from "../api/edits";
import { job } from "../api/testing";
import type { Worksheet } from "../api/worksheet";
import { tell } from "../shared/notices";
import { useQuestions } from "./useQuestions";

vi.mock("../shared/notices", () => ({ tell: vi.fn(), tellProblem: vi.fn() }));

const asks = (name: string): Question => ({
  ref: `source:${name}`,
  code: "delay",
  message: `${name} is late.`,
  inputs: [`source:${name}`],
  remedy: null,
});

/** A job that asks about files, and edits that are answered by hand. */
function questions(...names: string[]) {
  const at = (head: string, all: readonly string[]): Job =>
    job([], { head, preparation: { safe: [], questions: all.map(asks), untouched: [] } });
  const store = createStore<{ job: Job }>(() => ({ job: at("r0", names) }));
  let drawn = store.getState().job;
  const sent: { edit: Edit; answer: (head: string, left: readonly string[]) => Promise<void> }[] = [];
  const edit = (made: Edit) =>
    new Promise<Job>((resolve) => {
      const answer = (head: string, left: readonly string[]) =>
        act(async () => {
          store.setState({ job: at(head, left) });
          resolve(store.getState().job);
        });
      sent.push({ edit: made, answer });
    });
  const worksheet = { store, edit, do: (made: Edit) => void edit(made) } as unknown as Worksheet;
  const wrapper = ({ children }: { children: ReactNode }) => (
    <QueryClientProvider client={new QueryClient()}>{children}</QueryClientProvider>
  );
  const { result, rerender } = renderHook(() => useQuestions(drawn, worksheet), { wrapper });
  const draw = () => {
    drawn = store.getState().job;
    rerender();
  };
  const does = (deed: (now: ReturnType<typeof useQuestions>) => void) => act(() => deed(result.current));
  const becomes = (head: string, all: readonly string[]) => {
    store.setState({ job: at(head, all) });
    draw();
  };
  const dismissed = () =>
    sent.flatMap(({ edit }) => (edit.kind === "dismiss" ? edit.findings.map(({ ref }) => ref) : []));
  return { does, becomes, draw, sent, dismissed, now: () => result.current };
}

it("stays at the question that is asked while others come before it and go", () => {
  const { does, becomes, now } = questions("sea", "bell", "lamp");
  does((asked) => asked.begin());
  becomes("r0", ["gull", "fog", "sea", "bell", "lamp"]);
  expect(now().question?.ref).toBe("source:sea");
  becomes("r0", ["sea", "bell"]);
  expect(now().question?.ref).toBe("source:sea");
});

it("answers a question once, however often the key is pressed before the answer has come", async () => {
  const { does, sent, dismissed, now, draw } = questions("sea", "bell");
  does((asked) => asked.begin());
  does((asked) => asked.dismiss());
  does((asked) => asked.dismiss());
  expect(dismissed()).toEqual(["source:sea"]);
  await sent[0]?.answer("r1", ["bell"]);
  // The page still shows what was before the answer.
  does((asked) => asked.dismiss());
  expect(dismissed()).toEqual(["source:sea"]);
  draw();
  expect([now().question?.ref, now().number, now().of]).toEqual(["source:bell", 2, 2]);
});

it("undoes its own last answer, and nothing else", async () => {
  const { does, becomes, sent, now, draw } = questions("sea", "bell");
  does((asked) => asked.begin());
  does((asked) => asked.dismiss());
  await sent[0]?.answer("r1", ["bell"]);
  draw();
  does((asked) => asked.back?.());
  expect(sent[1]?.edit.kind).toBe("undo");
  await sent[1]?.answer("r0", ["sea", "bell"]);
  draw();
  expect(now().question?.ref).toBe("source:sea");
  does((asked) => asked.dismiss());
  await sent[2]?.answer("r2", ["bell"]);
  becomes("another window's", ["bell"]);
  does((asked) => asked.back?.());
  expect(sent).toHaveLength(3);
  expect(vi.mocked(tell).mock.calls[0]?.[0]).toBe("The last answer can’t be undone here");
});
