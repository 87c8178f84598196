/**
 * Edits, drags, questions and their undo, mixed, against a plain model: what is undone is what was meant, and a question
 * comes back with its answer.
 */
import { expect, it, vi } from "vitest";
import type { Job, Problem, Question } from "../api/client";
import { clip, job, mergeStep, source } from "../api/testing";
import type { Of } from "../api/turns";
import type { ListenSession } from "../features/listen";
import { createServer, History, random } from "../model/testing";
import { Worksheet } from "../model/worksheet";
import { findDraft } from "./previews";
import { countQuestions, questionKey } from "./questions";
import { WorkbenchStore } from "./store";
import { askedQuestion } from "./view";

/** Lines with their setting, and the files whose question was answered. */
type State = { lines: readonly (readonly [id: string, width: number])[]; answered: readonly string[] };
const EMPTY: State = { lines: [], answered: [] };
const FILES = ["fog", "gull", "rope", "tide"];

const withLine = (state: State, id: string): State => ({ ...state, lines: [...state.lines, [id, 1]] });
const withAnswer = (state: State, file: string): State => ({
  ...state,
  answered: [...state.answered.filter((one) => one !== file), file],
});
const withWidth = (state: State, line: string, width: number): State => ({
  ...state,
  lines: state.lines.map(([id, was]) => [id, id === line ? width : was]),
});

const width = (value: number): Of<"width"> => ({ kind: "width", width: value });
const questionOn = (file: string): Question => ({
  ref: `source:${file}`,
  code: "delay",
  message: "",
  inputs: [`source:${file}`],
  remedy: { turn: { kind: "swap" }, label: "swap", names: [file] } as unknown as Question["remedy"],
});

const jobOf = (history: History<State>): Job =>
  job(
    history.state.lines.map(([id, value]) => mergeStep({ id, turn: width(value), outputs: [clip(id)] })),
    {
      head: history.head,
      ...history.can,
      sources: FILES.map((name) => source(name)),
      preparation: {
        safe: [],
        questions: FILES.filter((file) => !history.state.answered.includes(file)).map(questionOn),
        untouched: [],
      },
    },
  );

function workbench(seed: number) {
  vi.useFakeTimers();
  const history = new History<State>(EMPTY);
  const answers: string[] = [];
  const answer = (file: string, state: State) => {
    answers.push(file);
    history.add(withAnswer(state, file), "answer");
  };
  const server = createServer(
    history,
    () => jobOf(history),
    (path, given) => {
      const { state } = history;
      if (path.endsWith("/steps")) {
        const id = (given.steps as { names: string[] }[])[0]?.names[0] ?? "";
        if (FILES.includes(id)) answer(id, withLine(state, `answer ${id} ${answers.length}`));
        else history.add(withLine(state, id), "line");
      } else if (path.endsWith("/dismissals"))
        answer((given.findings as { ref: string }[])[0]?.ref.slice("source:".length) ?? "", state);
      else if (path.endsWith("/steps/{step_id}")) {
        const value = (given.turn as Of<"width">).width;
        history.add(
          withWidth(state, String(given.step_id), value),
          "drag",
          given.amends !== undefined && given.amends === history.head,
        );
      } else if (!path.endsWith("/{job_id}")) throw new Error(`Nobody does ${path}`);
    },
  );
  const told: string[] = [];
  const tellProblem = (problem: unknown) => void told.push((problem as Problem).code ?? String(problem));
  const worksheet = new Worksheet("j", tellProblem);
  const bench = new WorkbenchStore(
    {
      worksheet,
      session: { updateClips: () => {}, selected: null } as unknown as ListenSession,
      // What is tried, as soon as the page may draw it.
      deliver: vi.fn(),
      save: vi.fn(),
      makeDraft: (now, question) => Promise.resolve({ ...now, head: `draft of ${question.ref}` }),
      makeComparison: (now) => Promise.resolve(now),
      tell: (title) => void told.push(title),
      tellProblem,
    },
    jobOf(history),
    { line: null, files: [] },
  );
  void worksheet.look();
  server.answer("no");
  bench.start(() => {});
  return { bench, history, server, worksheet, told, answers, draw: random(seed) };
}

/** Answers that arrive are seen by who waits for them. */
const seen = (milliseconds = 0) => vi.advanceTimersByTimeAsync(milliseconds);
const fileOf = (question: Question | null) => question?.ref.slice("source:".length) ?? "";

it.each(Array.from({ length: 80 }, (_, seed) => seed))(
  "comes to what a plain history comes to, with questions and drags, by seed %i",
  async (seed) => {
    const { bench, history, server, worksheet, answers, draw } = workbench(seed);
    const model = new History<State>(EMPTY);
    await seen();
    const undos = vi.spyOn(worksheet, "edit");
    const pressed: string[] = [];
    /** A question is answered once until that has arrived. */
    const onItsWay = (file: string) =>
      pressed.filter((one) => one === file).length > answers.filter((one) => one === file).length;
    for (let n = 0; n < 50; n++) {
      const at = draw();
      const asked = fileOf(askedQuestion(bench.state));
      const open = asked !== "" && !onItsWay(asked);
      if (at < 0.14) {
        model.add(withLine(model.state, `line ${n}`), "line");
        void bench.add([{ turn: { kind: "swap" }, inputs: [], names: [`line ${n}`] }]);
      } else if (at < 0.26) {
        const there = bench.state.job.steps.filter(({ id }) => model.state.lines.some(([one]) => one === id));
        const id = there[Math.floor(draw() * there.length)]?.id;
        for (const [move, value] of id ? [0.25, 0.5, n].entries() : []) {
          model.add(withWidth(model.state, id ?? "", value), "drag", move > 0);
          bench.change(id ?? "", { turn: width(value), gesture: `drag ${n}` });
          if (draw() < 0.5) server.answer("no");
          await seen(20);
        }
      } else if (at < 0.4) {
        const before = model.by === "answer" ? model.state.answered.at(-1) : undefined;
        const { preview } = bench.state;
        model.undo();
        bench.undo();
        if (
          before &&
          !model.state.answered.includes(before) &&
          preview?.kind === "question" &&
          preview.progress.answered.at(-1)?.key === questionKey(questionOn(before))
        ) {
          await server.settle();
          expect(fileOf(askedQuestion(bench.state)), "the question comes back").toBe(before);
        }
      } else if (at < 0.46) {
        model.redo();
        bench.redo();
      } else if (at < 0.52) bench.previews.askQuestions();
      else if (at < 0.62) {
        if (open && findDraft(bench.state)) {
          pressed.push(asked);
          model.add(withLine(withAnswer(model.state, asked), `answer ${asked}`), "answer");
        }
        bench.previews.takeAnswer();
      } else if (at < 0.7) {
        if (open) {
          pressed.push(asked);
          model.add(withAnswer(model.state, asked), "answer");
        }
        bench.previews.dismissQuestion();
      } else if (at < 0.78) {
        undos.mockClear();
        bench.previews.undoAnswer();
        if (undos.mock.calls.length > 0) {
          expect(model.by, "what is taken back is an answer").toBe("answer");
          const file = model.state.answered.at(-1);
          model.undo();
          await server.settle();
          if (!model.state.answered.includes(file ?? ""))
            expect(fileOf(askedQuestion(bench.state)), "its question comes back").toBe(file);
        }
      } else if (at < 0.81) bench.previews.close();
      else server.answer(at < 0.86 ? "before" : "no");
      await seen(draw() < 0.2 ? 12_000 : 0);
    }
    await server.settle();
    expect(server.isAsked()).toBe(false);
    const settings = ({ lines, answered }: State) => ({
      lines: lines.map(([id, value]) => [id.replace(/ \d+$/, id.startsWith("answer") ? "" : "$&"), value]),
      answered,
    });
    expect(settings(history.state)).toEqual(settings(model.state));
    expect(bench.state).toMatchObject({ changing: false, unsaved: 0, job: { head: history.head } });
    const { preview, job: now } = bench.state;
    if (preview?.kind === "question") {
      const { number, of } = countQuestions(preview.progress, now);
      expect(number - 1 + now.preparation.questions.length).toBe(of);
      const keys = now.preparation.questions.map(questionKey);
      const answered = preview.progress.answered.map(({ key }) => key);
      expect(
        keys.filter((key) => answered.includes(key)),
        "what is asked is not answered",
      ).toEqual([]);
      if (keys.length) expect(keys).toContain(preview.progress.key);
    }
    vi.useRealTimers();
  },
);

it.each(Array.from({ length: 40 }, (_, seed) => seed))(
  "answers nothing twice and takes back no one else's work unasked, with another window, by seed %i",
  async (seed) => {
    const { bench, history, server, worksheet, told, draw } = workbench(2_000 + seed);
    await seen();
    const taken: string[] = [];
    const undo = history.undo.bind(history);
    history.undo = () => {
      taken.push(history.by);
      undo();
    };
    for (let n = 0; n < 50; n++) {
      const at = draw();
      if (at < 0.12) void bench.add([{ turn: { kind: "swap" }, inputs: [], names: [`line ${n}`] }]);
      else if (at < 0.2) bench.undo();
      else if (at < 0.3) bench.previews.askQuestions();
      else if (at < 0.42) bench.previews.takeAnswer();
      else if (at < 0.5) bench.previews.dismissQuestion();
      else if (at < 0.58) bench.previews.undoAnswer();
      else if (at < 0.66) {
        history.add(withLine(history.state, `theirs ${n}`), "another window");
        worksheet.changed(history.head);
      } else server.answer(at < 0.7 ? "before" : at < 0.74 ? "after" : "no");
      await seen(draw() < 0.2 ? 12_000 : 0);
    }
    await server.settle();
    expect(bench.state).toMatchObject({ changing: false, unsaved: 0, job: { head: history.head } });
    const lines = history.state.lines
      .map(([id]) => id.replace(/ \d+$/, ""))
      .filter((id) => id.startsWith("answer"));
    expect(new Set(lines).size, "no question was answered twice").toBe(lines.length);
    expect(taken.filter((by) => by === "another window").length).toBeLessThanOrEqual(told.length);
    vi.useRealTimers();
  },
);
