/**
 * What is seen and heard before it counts: the answer to a question, or a line as it was in an earlier version. The job
 * with it added is a draft, made anew for each question or line and each head of the job.
 */
import type { Job, Question } from "../api/client";
import { stepOfAnswer } from "../api/turns";
import type { Compared } from "../features/history";
import type { Edit } from "../model/edits";
import {
  type Answer,
  FIRST_QUESTION,
  type QuestionProgress,
  questionKey,
  questionOf,
  updateProgress,
} from "./questions";
import type { WorkbenchDeps, WorkbenchState } from "./store";

/** A draft, the question or line it is about, and the head it was made on. */
type Draft = { key: string; head: string; job: Job | null; problem: Error | null };

export type Preview =
  | { kind: "question"; progress: QuestionProgress; draft: Draft | null }
  | { kind: "version"; line: Compared; draft: Draft | null };

type Store = {
  getState: () => WorkbenchState;
  /** `byHand` where the user did it, and no answer. */
  setPreview: (preview: Preview | null, byHand: boolean) => void;
};

export class Previews {
  private loading: AbortController | null = null;
  /** Questions whose answer is on its way, whether or not they are still asked. */
  private readonly sending = new Set<string>();

  constructor(
    private readonly store: Store,
    private readonly deps: Pick<
      WorkbenchDeps,
      "worksheet" | "makeDraft" | "makeComparison" | "tell" | "tellProblem"
    >,
  ) {}

  private get preview() {
    return this.store.getState().preview;
  }

  private get progress(): QuestionProgress | null {
    return this.preview?.kind === "question" ? this.preview.progress : null;
  }

  get question(): Question | null {
    return this.progress && questionOf(this.store.getState().job, this.progress);
  }

  /** Ask the questions about the files. */
  askQuestions() {
    const progress = updateProgress(FIRST_QUESTION, this.store.getState().job);
    this.store.setPreview({ kind: "question", progress, draft: null }, true);
    this.load();
  }

  /** Hear a line of an earlier version against what it is now. */
  compare(line: Compared) {
    this.store.setPreview({ kind: "version", line, draft: null }, true);
    this.load();
  }

  close() {
    this.store.setPreview(null, true);
    this.load();
  }

  private setProgress(progress: QuestionProgress) {
    if (this.preview?.kind !== "question") return;
    this.store.setPreview({ ...this.preview, progress }, true);
    this.load();
  }

  /** The answer is added as any turn is: what else is on its way by now stays. */
  takeAnswer() {
    const step = this.question && stepOfAnswer(this.question);
    if (step && findDraft(this.store.getState())) this.sendAnswer({ kind: "add", steps: [step] });
  }

  dismissQuestion() {
    const { question } = this;
    if (!question) return;
    const { ref, code } = question;
    this.sendAnswer({ kind: "dismiss", findings: [{ ref, code }], dismissed: true });
  }

  private sendAnswer(edit: Edit) {
    const { progress, question } = this;
    const key = question && questionKey(question);
    if (!progress || !key || this.sending.has(key)) return;
    this.sending.add(key);
    this.setProgress({ ...progress, answered: [...progress.answered, { key, edit, head: null }] });
    this.deps.worksheet
      .edit(edit)
      .then(
        ({ head }) => this.setAnswer(edit, head),
        (problem: unknown) => {
          this.setAnswer(edit, null);
          this.deps.tellProblem(problem);
        },
      )
      .finally(() => this.sending.delete(key));
  }

  /** An answer has made a head; none where it was refused. */
  private setAnswer(edit: Edit, head: string | null) {
    const { progress } = this;
    if (!progress) return;
    const answered = progress.answered.flatMap((one) =>
      one.edit !== edit ? [one] : head === null ? [] : [{ ...one, head }],
    );
    this.setProgress({ ...progress, answered });
  }

  /** Whether an undo takes back this answer now. */
  private isLast(answer: Answer | undefined): boolean {
    const last = this.deps.worksheet.findUndoTarget();
    return last !== null && answer !== undefined && (last === answer.edit || last === answer.head);
  }

  /** Undo; an answer that is taken back brings its question back. */
  undo() {
    const { progress } = this;
    const last = progress?.answered.at(-1);
    const takesAnswer = this.isLast(last);
    const undone = this.deps.worksheet.edit({ kind: "undo" });
    if (!progress || !last || !takesAnswer) {
      undone.catch(this.deps.tellProblem);
      return;
    }
    this.setProgress({ ...progress, key: last.key, awaited: true, answered: progress.answered.slice(0, -1) });
    const stopWaiting = (change: Partial<QuestionProgress>) => {
      const now = this.progress;
      // Else a further undo is about to bring another one back.
      if (now?.key === last.key)
        this.setProgress(updateProgress({ ...now, awaited: false, ...change }, this.store.getState().job));
    };
    undone.then(
      () => stopWaiting({}),
      (problem: unknown) => {
        stopWaiting({ answered: progress.answered });
        this.deps.tellProblem(problem);
      },
    );
  }

  /** Take back the last answer, where nothing was done since. */
  undoAnswer() {
    const { progress } = this;
    const last = progress?.answered.at(-1);
    if (!progress || !last) return;
    if (this.isLast(last)) return this.undo();
    this.setProgress({ ...progress, answered: progress.answered.slice(0, -1) });
    this.deps.tell(
      "The last answer can’t be undone here",
      "The worksheet has changed since. Use Undo, or History.",
    );
  }

  /** Make the draft, unless it is there or on its way; `again` where it failed. */
  load(again = false) {
    const { preview } = this;
    const { job } = this.store.getState();
    const key = preview && keyOfPreview(preview);
    if (preview?.draft && !again && preview.draft.key === key && preview.draft.head === job.head) return;
    this.abort();
    const { question } = this;
    if (!preview || !key || (preview.kind === "question" && !question?.remedy)) return;
    const controller = new AbortController();
    this.loading = controller;
    const { head } = job;
    const setDraft = (draft: Pick<Draft, "job" | "problem">) => {
      if (this.preview && !controller.signal.aborted)
        this.store.setPreview({ ...this.preview, draft: { key, head, ...draft } }, false);
    };
    setDraft({ job: null, problem: null });
    const draft =
      preview.kind === "version"
        ? this.deps.makeComparison(job, preview.line, controller.signal)
        : this.deps.makeDraft(job, question as Question, controller.signal);
    draft.then(
      (job) => setDraft({ job, problem: null }),
      (problem: unknown) =>
        setDraft({ job: null, problem: problem instanceof Error ? problem : new Error(String(problem)) }),
    );
  }

  /** Nobody waits for the draft any more. */
  abort() {
    this.loading?.abort();
    this.loading = null;
  }
}

/** What a preview is known by. */
function keyOfPreview(preview: Preview): string {
  return preview.kind === "version"
    ? `${preview.line.revision} ${preview.line.step}`
    : (preview.progress.key ?? "");
}

/** The job with what is previewed, where it was made for that and for the job as it is now. */
export function findDraft({ preview, job }: Pick<WorkbenchState, "preview" | "job">): Job | null {
  const draft = preview?.draft;
  return preview && draft?.head === job.head && draft.key === keyOfPreview(preview) ? draft.job : null;
}
