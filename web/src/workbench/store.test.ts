import { beforeEach, expect, it, vi } from "vitest";
import type { Delivery, Job, NewStep, Question } from "../api/client";
import { clip, job, mergeStep, source } from "../api/testing";
import type { Compared } from "../features/history";
import type { ListenSession } from "../features/listen";
import type { Edit } from "../model/edits";
import { Worksheet } from "../model/worksheet";
import { findDraft } from "./previews";
import { countQuestions } from "./questions";
import { type WorkbenchDeps, WorkbenchStore } from "./store";
import { askedQuestion, isAsking, shownFiles, shownJob, shownStep } from "./view";

const line = (id: string) => mergeStep({ id, outputs: [clip(id, 2, { ref: `step:${id}:0` })] });
const asks = (name: string): Question => ({
  ref: `source:${name}`,
  code: "delay",
  message: `${name} is late.`,
  inputs: [`source:${name}`],
  remedy: { turn: { kind: "swap" }, label: "swap" } as Question["remedy"],
});

type Told = { head: string; lines?: string; questions?: string; files?: string };
const jobAt = ({ head, lines = "", questions = "", files = "abc" }: Told): Job =>
  job([...lines].map(line), {
    head,
    can_undo: true,
    can_redo: true,
    sources: [...files].map((name) => source(name, 2)),
    preparation: { safe: [], questions: [...questions].map(asks), untouched: [] },
  });

/** A workbench whose edits are answered by hand, and whose drafts are too. */
function workbench(first: Told) {
  const worksheet = new Worksheet("j");
  const sent: { edit: Edit; answer: (told: Told) => Promise<void>; refuse: () => Promise<void> }[] = [];
  const become = (told: Told) => worksheet.store.setState({ job: jobAt(told) });
  become(first);
  vi.spyOn(worksheet, "edit").mockImplementation(
    (edit) =>
      new Promise<Job>((resolve, reject) => {
        const answer = async (told: Told) => {
          become(told);
          resolve(worksheet.store.getState().job as Job);
          await Promise.resolve();
        };
        const refuse = () => {
          reject(new Error("no"));
          return Promise.resolve();
        };
        sent.push({ edit, answer, refuse });
      }),
  );
  vi.spyOn(worksheet, "findUndoTarget").mockImplementation(
    () => worksheet.store.getState().job?.head ?? null,
  );
  const drafts: { of: string; head: string; signal: AbortSignal; finish: (told: Told) => Promise<void> }[] =
    [];
  const later = (of: string, head: string, signal: AbortSignal) =>
    new Promise<Job>((resolve) => {
      const finish = async (told: Told) => {
        resolve(jobAt(told));
        await Promise.resolve();
        await Promise.resolve();
      };
      drafts.push({ of, head, signal, finish });
    });
  const told: string[] = [];
  const deliver = vi.fn<WorkbenchDeps["deliver"]>();
  const save = vi.fn();
  const bench = new WorkbenchStore(
    {
      worksheet,
      session: { updateClips: () => {}, selected: null } as unknown as ListenSession,
      deliver,
      save,
      makeDraft: (now, question, signal) => later(question.ref, now.head, signal),
      makeComparison: (now, compared, signal) => later(compared.step, now.head, signal),
      tell: (title) => void told.push(title),
      tellProblem: (problem) => void told.push(String(problem)),
    },
    jobAt(first),
    { line: jobAt(first).steps[0]?.id ?? null, files: [] },
  );
  const screens: string[] = [];
  bench.start((screen) => void screens.push(screen));
  const kinds = () => sent.map(({ edit }) => edit.kind);
  return { bench, become, sent, kinds, drafts, told, screens, deliver, save };
}

beforeEach(() => void vi.useRealTimers());

it("chooses a line that is added as soon as it is here, and until then keeps what was chosen", async () => {
  const { bench, sent } = workbench({ head: "r0", lines: "ab" });
  void bench.add([{} as NewStep]);
  expect(bench.state.line).toBe("a");
  await sent[0]?.answer({ head: "r1", lines: "abx" });
  await Promise.resolve();
  expect([bench.state.line, bench.selected]).toEqual(["x", ["x"]]);
});

it("goes to the nearest line where the chosen one is gone, and to one that comes back where none was left", () => {
  const { bench, become } = workbench({ head: "r0", lines: "abc" });
  bench.chooseLine("b");
  become({ head: "r1", lines: "ac" });
  expect(bench.state.line).toBe("a");
  become({ head: "r2", lines: "" });
  expect(bench.state.line).toBeNull();
  become({ head: "r3", lines: "ac" });
  expect(bench.state.line).toBe("c");
});

it("chooses a file that was added alone, unless something else is chosen before it is here", () => {
  const { bench, become } = workbench({ head: "r0", lines: "a" });
  bench.awaitFiles(["d.wav"]);
  become({ head: "r0", lines: "a" });
  expect(bench.state.line).toBe("a");
  become({ head: "r1", lines: "a", files: "abcd" });
  expect([bench.state.line, bench.state.files]).toEqual([null, ["source:d"]]);
  bench.awaitFiles(["e.wav"]);
  bench.chooseLine("a");
  become({ head: "r2", lines: "a", files: "abcde" });
  expect(bench.state.line).toBe("a");
  bench.awaitFiles(["a.wav"]);
  become({ head: "r3", lines: "a", files: "abcde" });
  expect(bench.state.line, "one of that name was here before").toBe("a");
  bench.awaitFiles(["f.wav", "g.wav"]);
  become({ head: "r4", lines: "a", files: "abcdefg" });
  expect([bench.state.line, bench.state.files]).toEqual(["a", []]);
});

it("inserts beside the chosen line, once, and forgets the place where another is chosen", async () => {
  const { bench, sent } = workbench({ head: "r0", lines: "abc" });
  bench.chooseLine("b");
  bench.insert("before");
  void bench.add([]);
  bench.insert("after");
  bench.chooseLine("c");
  void bench.add([]);
  expect(sent.map(({ edit }) => edit.kind === "add" && edit.place)).toEqual([{ before: "b" }, undefined]);
});

it("moves, bypasses and removes the selected lines, and archives the chosen files", () => {
  const { bench, sent } = workbench({ head: "r0", lines: "abcd" });
  bench.chooseLine("b");
  bench.chooseLine("c", { shiftKey: true, ctrlKey: false, metaKey: false });
  bench.move(1);
  bench.toggleBypass();
  bench.remove();
  bench.chooseFiles(["source:a", "source:b"]);
  bench.remove();
  expect(sent.map(({ edit }) => edit)).toEqual([
    { kind: "lines", do: "move", steps: ["b", "c"], to: 2 },
    { kind: "lines", do: "bypass", steps: ["b", "c"], to: 0 },
    { kind: "lines", do: "remove", steps: ["b", "c"], to: 0 },
    { kind: "archive", refs: ["source:a", "source:b"], archived: true },
  ]);
});

it("shows an answer that is tried as what it is, and never counts it", async () => {
  const { bench, drafts, become } = workbench({ head: "r0", lines: "a", questions: "a" });
  bench.previews.askQuestions();
  expect([isAsking(bench.state), shownStep(bench.state), shownFiles(bench.state)]).toEqual([
    true,
    null,
    ["source:a"],
  ]);
  await drafts[0]?.finish({ head: "draft", lines: "ax" });
  expect(shownStep(bench.state)?.id).toBe("x");
  expect([shownJob(bench.state).steps.length, bench.state.job.steps.length]).toEqual([2, 1]);
  // Another window's edit makes it an answer to another job: it is tried again, and not shown for a moment.
  const shown: string[] = [];
  bench.store.subscribe((state) => shown.push(`${findDraft(state)?.head} on ${state.job.head}`));
  become({ head: "r1", lines: "ab", questions: "a" });
  expect([findDraft(bench.state), drafts.length, drafts[1]?.head]).toEqual([null, 2, "r1"]);
  expect(shown).not.toContain("draft on r1");
  bench.previews.close();
  expect([drafts[1]?.signal.aborted, shownJob(bench.state).head]).toEqual([true, "r1"]);
  await drafts[1]?.finish({ head: "late", lines: "abx" });
  expect(shownJob(bench.state).head).toBe("r1");
});

it("does not take for an answer what was tried for the question before", async () => {
  const { bench, drafts, kinds } = workbench({ head: "r0", questions: "ab" });
  bench.previews.askQuestions();
  await drafts[0]?.finish({ head: "draft of a", lines: "x" });
  bench.previews.dismissQuestion();
  expect(kinds()).toEqual(["dismiss"]);
  bench.previews.takeAnswer();
  expect(kinds(), "the answer is on its way").toEqual(["dismiss"]);
});

it("stays at the question that is asked while others come before it and go", () => {
  const { bench, become } = workbench({ head: "r0", questions: "cab" });
  bench.previews.askQuestions();
  become({ head: "r0", questions: "abxcz" });
  expect(askedQuestion(bench.state)?.ref).toBe("source:c");
  become({ head: "r0", questions: "cb" });
  expect(askedQuestion(bench.state)?.ref).toBe("source:c");
});

it("answers a question once, however often the key is pressed before the answer has come", async () => {
  const { bench, sent, kinds } = workbench({ head: "r0", questions: "ab" });
  bench.previews.askQuestions();
  bench.previews.dismissQuestion();
  bench.previews.dismissQuestion();
  expect(kinds()).toEqual(["dismiss"]);
  await sent[0]?.answer({ head: "r1", questions: "b" });
  expect(askedQuestion(bench.state)?.ref).toBe("source:b");
  const { preview } = bench.state;
  expect(preview?.kind === "question" && countQuestions(preview.progress, bench.state.job)).toEqual({
    number: 2,
    of: 2,
  });
});

it("brings a question back with its answer, by z and by undo alike, and never undoes anything else by z", async () => {
  for (const takeBack of ["undoAnswer", "undo"] as const) {
    const { bench, sent, kinds, become, told } = workbench({ head: "r0", questions: "ab" });
    bench.previews.askQuestions();
    bench.previews.dismissQuestion();
    await sent[0]?.answer({ head: "r1", questions: "b" });
    takeBack === "undo" ? bench.undo() : bench.previews.undoAnswer();
    expect(kinds()).toEqual(["dismiss", "undo"]);
    await sent[1]?.answer({ head: "r0", questions: "ab" });
    expect(askedQuestion(bench.state)?.ref, takeBack).toBe("source:a");
    bench.previews.dismissQuestion();
    await sent[2]?.answer({ head: "r2", questions: "b" });
    become({ head: "another window's", questions: "b" });
    bench.previews.undoAnswer();
    expect([kinds().length, told]).toEqual([3, ["The last answer can’t be undone here"]]);
  }
});

it("goes back two answers by two undos at once, and keeps an answer whose undo is refused", async () => {
  const { bench, sent, kinds } = workbench({ head: "r0", questions: "abc" });
  bench.previews.askQuestions();
  bench.previews.dismissQuestion();
  await sent[0]?.answer({ head: "r1", questions: "bc" });
  bench.previews.dismissQuestion();
  await sent[1]?.answer({ head: "r2", questions: "c" });
  bench.undo();
  vi.spyOn(bench.worksheet, "findUndoTarget").mockReturnValueOnce("r1");
  bench.undo();
  expect(kinds().slice(2)).toEqual(["undo", "undo"]);
  await sent[2]?.answer({ head: "r1", questions: "bc" });
  await sent[3]?.answer({ head: "r0", questions: "abc" });
  expect(askedQuestion(bench.state)?.ref).toBe("source:a");
  bench.previews.dismissQuestion();
  await sent[4]?.answer({ head: "r3", questions: "bc" });
  bench.undo();
  await sent[5]?.refuse();
  await Promise.resolve();
  const { preview } = bench.state;
  expect(preview?.kind === "question" && preview.progress.answered.map(({ head }) => head)).toEqual(["r3"]);
  expect(askedQuestion(bench.state)?.ref).toBe("source:b");
});

it("asks once more where an answer was refused", async () => {
  const { bench, sent, told } = workbench({ head: "r0", questions: "ab" });
  bench.previews.askQuestions();
  bench.previews.dismissQuestion();
  await sent[0]?.refuse();
  await Promise.resolve();
  bench.previews.dismissQuestion();
  expect([sent.length, told.length, askedQuestion(bench.state)?.ref]).toEqual([2, 1, "source:a"]);
});

it("hears a line of an earlier version on the worksheet, by its version and the head it is heard against", async () => {
  const { bench, drafts, screens, become } = workbench({ head: "r0", lines: "ab" });
  bench.followAddress("delivery");
  const then: Compared = { revision: "r7", number: 7, step: "b", sentence: "" };
  bench.compare(then);
  expect([screens, drafts[0]?.of]).toEqual([["worksheet"], "b"]);
  await drafts[0]?.finish({ head: "beside", lines: "abz" });
  expect(findDraft(bench.state)?.head).toBe("beside");
  become({ head: "r1", lines: "ab" });
  expect([findDraft(bench.state), drafts.length]).toEqual([null, 2]);
});

it("lets go of a preview where something else is chosen", () => {
  const { bench, drafts } = workbench({ head: "r0", lines: "ab", questions: "a" });
  for (const choose of [
    () => bench.chooseLine("b"),
    () => bench.chooseFiles(["source:a"]),
    () => bench.previews.close(),
  ]) {
    bench.previews.askQuestions();
    expect(bench.state.preview).not.toBeNull();
    choose();
    expect(bench.state.preview).toBeNull();
  }
  expect(drafts.every(({ signal }) => signal.aborted)).toBe(true);
});

it("gives the focus back where it came from, and leaves it to the page where that was nowhere", () => {
  const { bench } = workbench({ head: "r0", lines: "a" });
  document.body.innerHTML = "<div tabindex='0'></div><input>";
  const [list, field] = [...document.body.children] as HTMLElement[];
  bench.focus.setField("turn")(field ?? null);
  list?.focus();
  bench.focus.focusField("turn");
  expect(document.activeElement).toBe(field);
  bench.focus.returnFocus();
  expect(document.activeElement).toBe(list);
  field?.focus();
  bench.focus.returnFocus();
  expect(document.activeElement).toBe(document.body);
});

it("downloads a line alone with the settings chosen last, and saves it when it is proved", async () => {
  const { bench, deliver, save, screens } = workbench({ head: "r0", lines: "ab" });
  const settings = { depth: "24" } as never;
  bench.keepDeliveryChoice({ settings, to: "takes", ends: "", refs: [], copies: [], begun: null });
  const done = { id: "d", state: "done" } as Delivery;
  deliver.mockResolvedValue(done);
  await bench.download(["b"]);
  const [job, wanted] = deliver.mock.calls[0] ?? [];
  const line = job?.steps.find(({ id }) => id === "b");
  expect(wanted).toEqual({
    refs: line?.outputs.map(({ ref }) => ref),
    settings,
    range: null,
    copies: [],
    rest: false,
    to: null,
  });
  expect(wanted?.refs.length).toBeGreaterThan(0);
  expect(save).toHaveBeenCalledExactlyOnceWith(done);
  expect(screens).toEqual([]);
});

it("delivers everything to where it went last, and leaves it there", async () => {
  const { bench, deliver, save } = workbench({ head: "r0", lines: "ab" });
  bench.keepDeliveryChoice({
    settings: {} as never,
    to: "takes",
    ends: "",
    refs: [],
    copies: [],
    begun: null,
  });
  deliver.mockResolvedValue({ id: "d", state: "done" } as Delivery);
  await bench.deliverAll();
  expect(deliver.mock.calls[0]?.[1]).toMatchObject({ refs: bench.state.job.ends, to: "takes" });
  expect(save).not.toHaveBeenCalled();
});

it("asks on the delivery's screen where something has to be decided, and tells what failed", async () => {
  const { bench, deliver, save, screens, told } = workbench({ head: "r0", lines: "a" });
  deliver.mockResolvedValueOnce(null);
  await bench.download(["a"]);
  expect([screens, told]).toEqual([["delivery"], ["Check these files first"]]);
  deliver.mockRejectedValueOnce(new Error("The disk is full"));
  await bench.download(["a"]);
  expect(told.at(-1)).toContain("The disk is full");
  expect(save).not.toHaveBeenCalled();
});
