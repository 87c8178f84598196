/**
 * The workbench of one job, outside React: what is chosen, filtered, previewed and about to be added or delivered, and
 * what is done with it. The job in it is the worksheet's, so that a choice never points at what is not there.
 */
import { createStore } from "zustand/vanilla";
import type { DeliveryRange, Job, NewStep, Question, Step } from "../api/client";
import type { KeptChoice } from "../features/delivery";
import type { Compared } from "../features/history";
import type { Copied } from "../features/jobs";
import type { HushOverlay, ListenSession } from "../features/listen";
import type { FileFilter } from "../features/sources";
import type { Edit, LineAction, LinePlace, StepChange } from "../model/edits";
import type { Worksheet } from "../model/worksheet";
import { addSteps, setInputs } from "./lineEdits";
import { type Asking, BEGIN, follow, questionKey, questionOf } from "./questions";
import { type Held, nearestLeft, type Selection, selectedLines, selectLine } from "./selection";

/** The job with what is tried, known by what it is about and the head it was tried on. */
type Tried = { of: string; base: string; job: Job | null; problem: Error | null };

/** What is seen and heard before it counts: the answer to a question, or a line as it was in an earlier version. */
export type Preview =
  | { kind: "question"; asking: Asking; tried: Tried | null }
  | { kind: "version"; line: Compared; tried: Tried | null };

const ALL_FILES: FileFilter = { text: "", facet: null, sort: "came" };

export type Screen = "worksheet" | "delivery";
export type Dialog = "keys" | "history" | "recipe";

export type WorkbenchState = Selection & {
  job: Job;
  /** The last change came from the user's hand: it is drawn before everything else. */
  byHand: boolean;
  changing: boolean;
  /** Edits that wait for the server to answer again. */
  unsaved: number;
  screen: Screen;
  /** The chosen files; no line is chosen then. */
  files: readonly string[];
  filter: FileFilter;
  preview: Preview | null;
  /** Where the next turn is added, beside the chosen line; at the end where null. */
  inserting: "before" | "after" | null;
  /** A line that was added is chosen as soon as it is here. */
  awaited: string | null;
  dialog: Dialog | null;
  copied: Copied | null;
  /** Chosen on the delivery's screen. */
  range: DeliveryRange;
  kept: KeptChoice | null;
};

/** What the workbench needs of the page around it. */
export type Surroundings = {
  worksheet: Worksheet;
  session: ListenSession;
  /** The job with the answer to a question; aborted where nobody waits for it any more. */
  draft: (job: Job, question: Question, signal: AbortSignal) => Promise<Job>;
  /** The job with a line as it was at its end. */
  beside: (job: Job, line: Compared, signal: AbortSignal) => Promise<Job>;
  tell: (title: string, description: string) => void;
  tellProblem: (problem: unknown) => void;
};

/** Where the focus can be sent. */
export type Field = "turn" | "filter";

export class Workbench {
  readonly store;
  readonly worksheet: Worksheet;
  readonly session: ListenSession;
  /** Those that lie over the waveform; null where the line has none. */
  hushes: HushOverlay | null = null;
  private fields: Partial<Record<Field, HTMLElement | null>> = {};
  private cameFrom: HTMLElement | null = null;
  private trying: AbortController | null = null;
  private navigate: (screen: Screen) => void = () => {};

  constructor(
    private readonly around: Surroundings,
    job: Job,
    chosen: { line: string | null; files: readonly string[] },
  ) {
    this.worksheet = around.worksheet;
    this.session = around.session;
    this.store = createStore<WorkbenchState>(() => ({
      job,
      byHand: false,
      changing: false,
      unsaved: 0,
      screen: "worksheet",
      line: chosen.line,
      files: chosen.files,
      others: [],
      anchor: chosen.line,
      filter: ALL_FILES,
      preview: null,
      inserting: null,
      awaited: null,
      dialog: null,
      copied: null,
      range: null,
      kept: null,
    }));
  }

  get state(): WorkbenchState {
    return this.store.getState();
  }

  /** Follow the worksheet for as long as the page is open. */
  start(navigate: (screen: Screen) => void) {
    this.navigate = navigate;
    const follows = () => {
      const { job, byHand, changing, unsaved } = this.worksheet.store.getState();
      if (job) this.follow(job, { byHand, changing, unsaved });
    };
    follows();
    const stops = [
      this.worksheet.store.subscribe(follows),
      this.worksheet.onArrival((now) => this.session.updateClips(now)),
    ];
    return () => {
      for (const stop of stops) stop();
      this.trying?.abort();
      this.trying = null;
    };
  }

  /** The job has become another, by an edit here or elsewhere. */
  private follow(job: Job, more: Pick<WorkbenchState, "byHand" | "changing" | "unsaved">) {
    const before = this.state;
    const change: Partial<WorkbenchState> = { job, ...more };
    const there = (id: string | null) => job.steps.some((step) => step.id === id);
    if (before.awaited && there(before.awaited))
      Object.assign(change, { ...selectLine(job.steps, before, before.awaited), files: [], awaited: null });
    else if (before.line && !there(before.line)) {
      // The nearest line before it that is still there; where nothing is left, what comes back is chosen.
      const line = nearestLeft(before.job.steps, job.steps, before.line);
      Object.assign(change, { line, others: [], anchor: line });
    } else if (!before.line && before.files.length === 0 && before.job.steps.length === 0) {
      const line = job.steps.at(-1)?.id ?? null;
      Object.assign(change, { line, anchor: line });
    }
    if (before.preview?.kind === "question")
      change.preview = { ...before.preview, asking: follow(before.preview.asking, job) };
    this.set(change);
    this.tryOut();
  }

  private set(change: Partial<WorkbenchState>) {
    this.store.setState(change);
  }

  /** A change by hand, drawn at once. */
  private act(change: Partial<WorkbenchState>) {
    this.set({ byHand: true, ...change });
  }

  // What is chosen

  chooseLine(id: string | null, held?: Held) {
    const { job } = this.state;
    const selection =
      id === null ? { line: null, others: [], anchor: null } : selectLine(job.steps, this.state, id, held);
    this.act({ ...selection, files: [], preview: null, inserting: null, awaited: null });
    this.tryOut();
  }

  chooseFiles(files: readonly string[]) {
    this.act({ line: null, others: [], anchor: null, files, preview: null, inserting: null, awaited: null });
    this.tryOut();
  }

  filter(change: Partial<FileFilter>) {
    this.act({ filter: { ...this.state.filter, ...change } });
  }

  get selected(): string[] {
    return selectedLines(this.state.job.steps, this.state);
  }

  /** Whether all selected lines are so. */
  selectedAll(holds: (step: Step) => boolean): boolean {
    const { selected } = this;
    return this.state.job.steps.every((step) => holds(step) || !selected.includes(step.id));
  }

  get step(): Step | null {
    return this.state.job.steps.find(({ id }) => id === this.state.line) ?? null;
  }

  // What is edited

  do(edit: Edit) {
    this.worksheet.do(edit);
  }

  /** Add turns, where one is being inserted there; the last line that it adds is chosen. */
  add(steps: NewStep[], place: LinePlace | undefined = this.place): Promise<void> {
    this.act({ inserting: null });
    return this.choosesAdded(addSteps(this.worksheet, steps, place));
  }

  applyRecipe(recipe: string, refs: string[], by: Extract<Edit, { kind: "recipe" }>["by"]) {
    void this.choosesAdded(this.worksheet.edit({ kind: "recipe", recipe, refs, by }));
  }

  private choosesAdded(edit: Promise<Job>): Promise<void> {
    const before = new Set(this.state.job.steps.map(({ id }) => id));
    return edit.then((after) => {
      const added = after.steps.findLast(({ id }) => !before.has(id));
      if (!added) return;
      this.set({ awaited: added.id });
      const { job, byHand, changing, unsaved } = this.worksheet.store.getState();
      if (job) this.follow(job, { byHand, changing, unsaved });
    }, this.around.tellProblem);
  }

  change(step: string, { gesture, ...change }: StepChange & { gesture?: string }) {
    this.do({ kind: "change", step, change, gesture });
  }

  /** Other clips for a line; where the core refuses them, what its kind does instead. */
  setInputs(step: Step, inputs: string[]) {
    void setInputs(this.worksheet, step, inputs).catch(this.around.tellProblem);
  }

  archive(refs: readonly string[], archived: boolean) {
    if (refs.length) this.do({ kind: "archive", refs: [...refs], archived });
  }

  editLines(action: LineAction, to = 0) {
    const steps = this.selected;
    if (steps.length) this.do({ kind: "lines", do: action, steps, to });
  }

  move(by: -1 | 1) {
    const { steps } = this.state.job;
    const first = steps.findIndex(({ id }) => this.selected.includes(id));
    const to = Math.min(steps.length - this.selected.length, Math.max(0, first + by));
    if (to !== first) this.editLines("move", to);
  }

  /** Whether every selected line is bypassed. */
  get bypassed(): boolean {
    return this.selected.length > 0 && this.selectedAll(({ bypassed }) => bypassed);
  }

  toggleBypass() {
    this.editLines(this.bypassed ? "enable" : "bypass");
  }

  /** Remove the selected lines, or archive the chosen files. */
  remove() {
    if (this.state.line) this.editLines("remove");
    else this.archive(this.state.files, true);
  }

  insert(inserting: "before" | "after") {
    if (!this.step) return;
    this.act({ inserting });
    this.focus("turn");
  }

  stopInserting() {
    if (this.state.inserting) this.act({ inserting: null });
  }

  private get place(): LinePlace | undefined {
    const { inserting, line } = this.state;
    if (!inserting || !line) return undefined;
    return inserting === "before" ? { before: line } : { after: line };
  }

  /** Take back what was done last; of a question's answer, with the question. */
  undo() {
    const { preview, job } = this.state;
    if (preview?.kind === "question") {
      const { asking } = preview;
      const last = asking.answered.at(-1);
      if (last && last.head === job.head)
        this.ask({ ...asking, key: last.key, awaited: true, answered: asking.answered.slice(0, -1) });
    }
    this.do({ kind: "undo" });
  }

  redo() {
    this.do({ kind: "redo" });
  }

  // What is tried

  /** Ask the questions about the files. */
  begin() {
    this.act({ preview: { kind: "question", asking: BEGIN, tried: null }, inserting: null });
    this.ask(follow(BEGIN, this.state.job));
  }

  /** Hear a line of an earlier version against what it is now. */
  compare(line: Compared) {
    this.act({ preview: { kind: "version", line, tried: null }, inserting: null, dialog: null });
    this.tryOut();
    this.show("worksheet");
  }

  closePreview() {
    this.act({ preview: null });
    this.tryOut();
  }

  private get asking(): Asking | null {
    return this.state.preview?.kind === "question" ? this.state.preview.asking : null;
  }

  get question(): Question | null {
    return this.asking && questionOf(this.state.job, this.asking);
  }

  private ask(asking: Asking) {
    const { preview } = this.state;
    if (preview?.kind !== "question") return;
    this.act({ preview: { ...preview, asking } });
    this.tryOut();
  }

  /** Take the answer that is tried. */
  take() {
    const tried = triedJob(this.state);
    if (tried && this.question) this.answer({ kind: "restore", revision: tried.head });
  }

  dismiss() {
    const { question } = this;
    if (question)
      this.answer({
        kind: "dismiss",
        findings: [{ ref: question.ref, code: question.code }],
        dismissed: true,
      });
  }

  private answer(edit: Edit) {
    const { asking, question } = this;
    const key = question && questionKey(question);
    if (!asking || !key || asking.answered.some((one) => one.key === key && one.head === null)) return;
    const known = (head: string | null) => [
      ...(this.asking ?? asking).answered.filter((one) => one.key !== key),
      { key, head },
    ];
    this.ask({ ...asking, answered: known(null) });
    this.worksheet.edit(edit).then(
      ({ head }) => this.asking && this.ask({ ...this.asking, answered: known(head) }),
      (problem: unknown) => {
        if (this.asking)
          this.ask({ ...this.asking, answered: this.asking.answered.filter((one) => one.key !== key) });
        this.around.tellProblem(problem);
      },
    );
  }

  /** Take back the last answer, where nothing was done since. */
  undoAnswer() {
    const { asking } = this;
    const last = asking?.answered.at(-1);
    if (!asking || !last?.head) return;
    if (last.head === this.state.job.head) return this.undo();
    this.ask({ ...asking, answered: asking.answered.slice(0, -1) });
    this.around.tell(
      "The last answer can’t be undone here",
      "The worksheet has changed since. Use Undo, or History.",
    );
  }

  /** Ask for what the preview shows, once for each question or line and each head. */
  tryOut(again = false) {
    const { preview, job } = this.state;
    const of = preview && identityOf(preview);
    if (preview?.tried && !again && preview.tried.of === of && preview.tried.base === job.head) return;
    this.trying?.abort();
    this.trying = null;
    if (!preview || !of) return;
    const question = this.question;
    if (preview.kind === "question" && !question?.remedy) return;
    const controller = new AbortController();
    this.trying = controller;
    const base = job.head;
    const finish = (found: Pick<Tried, "job" | "problem">) => {
      const now = this.state.preview;
      if (controller.signal.aborted || !now) return;
      this.set({ byHand: false, preview: { ...now, tried: { of, base, ...found } } });
    };
    this.set({ preview: { ...preview, tried: { of, base, job: null, problem: null } } });
    const asked =
      preview.kind === "version"
        ? this.around.beside(job, preview.line, controller.signal)
        : this.around.draft(job, question as Question, controller.signal);
    asked.then(
      (tried) => finish({ job: tried, problem: null }),
      (problem: unknown) =>
        finish({ job: null, problem: problem instanceof Error ? problem : new Error(String(problem)) }),
    );
  }

  // Where one is

  /** Go to another screen of the job. */
  show(screen: Screen) {
    if (screen !== this.state.screen) this.navigate(screen);
  }

  /** The address has led to a screen, and to what is chosen on it. */
  arrive(screen: Screen, chosen?: Pick<WorkbenchState, "line" | "files">) {
    if (chosen)
      this.act({ ...chosen, others: [], anchor: chosen.line, preview: null, inserting: null, awaited: null });
    if (screen !== this.state.screen) this.act({ screen });
    this.tryOut();
  }

  open(dialog: Dialog | null) {
    this.act({ dialog });
  }

  copy(copied: Copied | null) {
    this.act({ copied });
  }

  /** Not drawn anew: the delivery's screen has it already. */
  keep = (kept: KeptChoice) => this.set({ kept });

  trimTo(range: DeliveryRange) {
    this.act({ range });
  }

  /** The hushes that lie over the waveform now. */
  layHushes(hushes: HushOverlay | null) {
    this.hushes = hushes;
  }

  /** What the focus can be sent to, as long as it is on the page. */
  register = (field: Field) => (element: HTMLElement | null) => {
    this.fields[field] = element;
  };

  /** Send the focus to a field; it comes back from there to where it is now. */
  focus(field: Field) {
    const active = document.activeElement;
    this.cameFrom = active instanceof HTMLElement && active !== document.body ? active : null;
    this.fields[field]?.focus();
  }

  /** Where the focus came from when it was sent here; the page has the keys where that is nowhere. */
  comeBack() {
    const [field, back] = [document.activeElement, this.cameFrom];
    this.cameFrom = null;
    if (back?.isConnected) back.focus();
    else if (field instanceof HTMLElement) field.blur();
  }
}

/** What a preview is known by. */
function identityOf(preview: Preview): string {
  return preview.kind === "version"
    ? `${preview.line.revision} ${preview.line.step}`
    : (preview.asking.key ?? "");
}

/** The job with what is tried, while that is of what is asked and of the job as it is. */
export function triedJob({ preview, job }: Pick<WorkbenchState, "preview" | "job">): Job | null {
  const tried = preview?.tried;
  return preview && tried?.base === job.head && tried.of === identityOf(preview) ? tried.job : null;
}
