/**
 * The workbench of one job, outside React: what is chosen, filtered, previewed and about to be added or delivered, and
 * what is done with it. The job in it is the worksheet's, so that a choice never points at what is not there.
 */
import { createStore } from "zustand/vanilla";
import type { Delivery, DeliveryRange, Job, NewStep, Question, Step } from "../api/client";
import type { KeptChoice, Wanted } from "../features/delivery";
import type { Compared } from "../features/history";
import type { Copied } from "../features/jobs";
import type { HushOverlay, ListenSession } from "../features/listen";
import type { FileFilter } from "../features/sources";
import type { Edit, LineAction, LinePlace, StepChange } from "../model/edits";
import type { Worksheet } from "../model/worksheet";
import { deliverLines } from "./deliverLines";
import { FocusReturn } from "./focus";
import { addSteps, setInputs } from "./lineEdits";
import { type Preview, Previews } from "./previews";
import { updateProgress } from "./questions";
import { type Held, nearestLeft, type Selection, selectedLines, selectLine } from "./selection";

const NOTHING_TO_CHOOSE = { lineToChoose: null, fileToChoose: null } as const;
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
  lineToChoose: string | null;
  /** So is a file that was added alone, by its name. */
  fileToChoose: string | null;
  dialog: Dialog | null;
  copied: Copied | null;
  /** Chosen on the delivery's screen. */
  range: DeliveryRange;
  deliveryChoice: KeptChoice | null;
};

/** What the workbench needs of the page around it. */
export type WorkbenchDeps = {
  worksheet: Worksheet;
  session: ListenSession;
  /** The job with the answer to a question; aborted where nobody waits for it any more. */
  makeDraft: (job: Job, question: Question, signal: AbortSignal) => Promise<Job>;
  /** The job with a line as it was at its end. */
  makeComparison: (job: Job, line: Compared, signal: AbortSignal) => Promise<Job>;
  /** Deliver with the settings of the last time; null where something has to be decided first. */
  deliver: (job: Job, wanted: Wanted) => Promise<Delivery | null>;
  /** Have the browser save what was delivered. */
  save: (delivery: Delivery) => void;
  tell: (title: string, description: string) => void;
  tellProblem: (problem: unknown) => void;
};

export class WorkbenchStore {
  readonly store;
  readonly worksheet: Worksheet;
  readonly session: ListenSession;
  readonly previews: Previews;
  readonly focus = new FocusReturn();
  /** Those that lie over the waveform; null where the line has none. */
  hushes: HushOverlay | null = null;
  private navigate: (screen: Screen) => void = () => {};

  constructor(
    private readonly deps: WorkbenchDeps,
    job: Job,
    chosen: { line: string | null; files: readonly string[] },
  ) {
    this.worksheet = deps.worksheet;
    this.session = deps.session;
    this.previews = new Previews(
      {
        getState: () => this.state,
        setPreview: (preview, byHand) =>
          this.set({ byHand, preview, ...(byHand && preview && { inserting: null }) }),
      },
      deps,
    );
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
      lineToChoose: null,
      fileToChoose: null,
      dialog: null,
      copied: null,
      range: null,
      deliveryChoice: null,
    }));
  }

  get state(): WorkbenchState {
    return this.store.getState();
  }

  /** Follow the worksheet for as long as the page is open. */
  start(navigate: (screen: Screen) => void) {
    this.navigate = navigate;
    const followWorksheet = () => {
      const { job, byHand, changing, unsaved } = this.worksheet.store.getState();
      if (job) this.updateJob(job, { byHand, changing, unsaved });
    };
    followWorksheet();
    const stops = [
      this.worksheet.store.subscribe(followWorksheet),
      this.worksheet.onArrival((now) => this.session.updateClips(now)),
    ];
    return () => {
      for (const stop of stops) stop();
      this.previews.abort();
    };
  }

  /** The job has become another, by an edit here or elsewhere. */
  private updateJob(job: Job, more: Pick<WorkbenchState, "byHand" | "changing" | "unsaved">) {
    const before = this.state;
    const change: Partial<WorkbenchState> = { job, ...more };
    const arrived = job.sources.find(
      ({ ref, file }) => file === before.fileToChoose && before.job.sources.every((one) => one.ref !== ref),
    );
    const there = (id: string | null) => job.steps.some((step) => step.id === id);
    if (before.lineToChoose && there(before.lineToChoose))
      Object.assign(change, {
        ...selectLine(job.steps, before, before.lineToChoose),
        files: [],
        lineToChoose: null,
      });
    else if (arrived && !before.preview)
      Object.assign(change, {
        line: null,
        others: [],
        anchor: null,
        files: [arrived.ref],
        ...NOTHING_TO_CHOOSE,
      });
    else if (before.line && !there(before.line)) {
      // The nearest line before it that is still there; where nothing is left, what comes back is chosen.
      const line = nearestLeft(before.job.steps, job.steps, before.line);
      Object.assign(change, { line, others: [], anchor: line });
    } else if (!before.line && before.files.length === 0 && before.job.steps.length === 0) {
      const line = job.steps.at(-1)?.id ?? null;
      Object.assign(change, { line, anchor: line });
    }
    if (before.preview?.kind === "question")
      change.preview = { ...before.preview, progress: updateProgress(before.preview.progress, job) };
    this.set(change);
    this.previews.load();
  }

  private set(change: Partial<WorkbenchState>) {
    this.store.setState(change);
  }

  /** A change by hand, drawn at once. */
  private setByHand(change: Partial<WorkbenchState>) {
    this.set({ byHand: true, ...change });
  }

  // What is chosen

  chooseLine(id: string | null, held?: Held) {
    const { job } = this.state;
    const selection =
      id === null ? { line: null, others: [], anchor: null } : selectLine(job.steps, this.state, id, held);
    this.setByHand({ ...selection, files: [], preview: null, inserting: null, ...NOTHING_TO_CHOOSE });
    this.previews.load();
  }

  chooseFiles(files: readonly string[]) {
    this.setByHand({
      line: null,
      others: [],
      anchor: null,
      files,
      preview: null,
      inserting: null,
      ...NOTHING_TO_CHOOSE,
    });
    this.previews.load();
  }

  /** Files are being added: one that comes alone is what is worked on next. */
  awaitFiles(names: readonly string[]) {
    this.set({ fileToChoose: names.length === 1 ? (names[0] ?? null) : null });
  }

  filter(change: Partial<FileFilter>) {
    this.setByHand({ filter: { ...this.state.filter, ...change } });
  }

  get selected(): string[] {
    return selectedLines(this.state.job.steps, this.state);
  }

  /** Whether all selected lines are so. */
  everySelected(holds: (step: Step) => boolean): boolean {
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

  edit(edit: Edit): Promise<Job> {
    return this.worksheet.edit(edit);
  }

  /** Add turns, where one is being inserted there; the last line that it adds is chosen. */
  add(steps: NewStep[], place: LinePlace | undefined = this.place): Promise<void> {
    this.setByHand({ inserting: null });
    return this.chooseAdded(addSteps(this.worksheet, steps, place));
  }

  applyRecipe(recipe: string, refs: string[], by: Extract<Edit, { kind: "recipe" }>["by"]) {
    void this.chooseAdded(this.worksheet.edit({ kind: "recipe", recipe, refs, by }));
  }

  private chooseAdded(edit: Promise<Job>): Promise<void> {
    const before = new Set(this.state.job.steps.map(({ id }) => id));
    return edit.then((after) => {
      const added = after.steps.findLast(({ id }) => !before.has(id));
      if (!added) return;
      this.set({ lineToChoose: added.id });
      const { job, byHand, changing, unsaved } = this.worksheet.store.getState();
      if (job) this.updateJob(job, { byHand, changing, unsaved });
    }, this.deps.tellProblem);
  }

  change(step: string, { gesture, ...change }: StepChange & { gesture?: string }) {
    this.do({ kind: "change", step, change, gesture });
  }

  /** Other clips for a line; where the core refuses them, what its kind does instead. */
  setInputs(step: Step, inputs: string[]) {
    void setInputs(this.worksheet, step, inputs).catch(this.deps.tellProblem);
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
    return this.selected.length > 0 && this.everySelected(({ bypassed }) => bypassed);
  }

  toggleBypass() {
    this.editLines(this.bypassed ? "enable" : "bypass");
  }

  /** Remove the selected lines, or archive the chosen files. */
  remove() {
    if (this.state.line) this.editLines("remove");
    else this.archiveChosen();
  }

  /** The files of a question are shown, and not chosen. */
  archiveChosen() {
    if (this.state.preview?.kind !== "question") this.archive(this.state.files, true);
  }

  insert(inserting: "before" | "after") {
    if (!this.step) return;
    this.setByHand({ inserting });
    this.focus.focusField("turn");
  }

  stopInserting() {
    if (this.state.inserting) this.setByHand({ inserting: null });
  }

  private get place(): LinePlace | undefined {
    const { inserting, line } = this.state;
    if (!inserting || !line) return undefined;
    return inserting === "before" ? { before: line } : { after: line };
  }

  /** Take back what was done last; of a question's answer, with the question. */
  undo() {
    this.previews.undo();
  }

  redo() {
    this.do({ kind: "redo" });
  }

  // What is previewed

  get question(): Question | null {
    return this.previews.question;
  }

  /** Hear a line of an earlier version on the worksheet's screen. */
  compare(line: Compared) {
    this.setByHand({ inserting: null, dialog: null });
    this.previews.compare(line);
    this.goTo("worksheet");
  }

  // Where one is

  /** Go to another screen of the job. */
  goTo = (screen: Screen) => this.navigate(screen);

  /** The address has led to a screen, and to what is chosen on it. */
  followAddress(screen: Screen, chosen?: Pick<WorkbenchState, "line" | "files">) {
    if (chosen)
      this.setByHand({
        ...chosen,
        others: [],
        anchor: chosen.line,
        preview: null,
        inserting: null,
        ...NOTHING_TO_CHOOSE,
      });
    if (screen !== this.state.screen) this.setByHand({ screen });
    this.previews.load();
  }

  openDialog(dialog: Dialog | null) {
    this.setByHand({ dialog });
  }

  startCopy(copied: Copied | null) {
    this.setByHand({ copied });
  }

  /** Deliver all results without the delivery's screen, with the settings of the last time. */
  deliverAll = () => this.deliverDirectly(null);

  /** Deliver the results of lines alone, and have the browser save them. */
  download = (steps: readonly string[]) => this.deliverDirectly(steps);

  private deliverDirectly(lines: readonly string[] | null) {
    const { worksheet, deps, goTo } = this;
    return deliverLines(lines, {
      ...deps,
      settled: () => worksheet.settled(),
      getState: () => this.state,
      goTo,
    });
  }

  /** Not drawn anew: the delivery's screen has it already. */
  keepDeliveryChoice = (deliveryChoice: KeptChoice) => this.set({ deliveryChoice });

  setDeliveryRange(range: DeliveryRange) {
    this.setByHand({ range });
  }

  /** The hushes that lie over the waveform now. */
  setHushes(hushes: HushOverlay | null) {
    this.hushes = hushes;
  }
}
