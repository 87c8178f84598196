/**
 * The worksheet of a job, outside React: what the server says it is, and the edits that are on their way.
 *
 * Edits are sent one at a time, each on what the one before has made. Changes of one step that wait are sent as one, and
 * those of one gesture take each other's place in the history. What is shown is the server's state with the waiting
 * edits applied. Edits that don't reach the server wait, and are sent in their order once it answers again; what then
 * can't be made is said.
 */

import { replaceEqualDeep } from "@tanstack/react-query";
import { createStore } from "zustand/vanilla";
import { client, type Job, Problem, unwrap } from "../api/client";
import { wait } from "../shared/wait";
import { applied, describeEdit, type Edit, type StepChange, sendEdit } from "./edits";

export type WorksheetState = {
  /** What is shown: null until the job has been looked at. */
  job: Job | null;
  /** An edit is on its way. */
  changing: boolean;
  /** How many edits wait for a server that doesn't answer. */
  unsaved: number;
  /** Why the last look at the job failed. */
  problem: Problem | null;
  /** The last change came from the user's hand, not from an answer: it is drawn before everything else. */
  byHand: boolean;
};

type Waiting = {
  edit: Edit;
  /** When the user did it, however much later it is sent. */
  editedAt: number;
  /** It was sent once, to a server that did not answer. */
  mayHaveArrived?: boolean;
  resolve: (job: Job) => void;
  reject: (problem: unknown) => void;
};

/** Changes of a setting that follow each other within this time are one: undo takes them back together. */
const ONE_GESTURE = 1500; // milliseconds
/** Events come by the hundred: a job is looked at again only so often. */
const LOOK_EVERY = 250; // milliseconds

/** An event follows the answer to an edit within this time. */
const EVENT_WITHIN = 5_000; // milliseconds

/** A server that doesn't answer is asked again after this long, and then after twice as long, up to the last. */
const RETRY_AFTER = [1_000, 10_000] as const; // milliseconds

/** What may be sent again although it may have arrived: made twice it is the same. */
const REPEATABLE: readonly Edit["kind"][] = ["change", "archive", "dismiss", "note", "restore"];

export class Worksheet {
  readonly store = createStore<WorksheetState>(() => ({
    job: null,
    changing: false,
    unsaved: 0,
    problem: null,
    byHand: false,
  }));
  private server: Job | null = null;
  private waiting: Waiting[] = [];
  private sending: Waiting | null = null;
  private gesture: Gesture & { head: string; until: number } = { step: "", head: "", until: 0 };
  /** Counts the answers to edits: what was asked before one of them is out of date. */
  private answers = 0;
  private looking: Promise<void> | null = null;
  private lookAgain = false;
  private arrivals = new Set<(job: Job) => void>();
  private idle: (() => void)[] = [];
  private retrying: ReturnType<typeof setTimeout> | null = null;
  /** Edits wait, or have waited, for a server that did not answer. */
  private serverAway = false;
  private retryAfter: number = RETRY_AFTER[0];
  /** The heads that undo goes back through, as far as they are known, and which of them another window made. */
  private path: readonly PathEntry[] = [];
  /** Heads of other windows that the user was warned of: an undo of these is meant. */
  private readonly warnedHeads = new Set<string>();
  /** Heads of edits made here, and when they were answered: one event for each is still to come. */
  private readonly awaitedEvents = new Map<string, number>();

  constructor(
    readonly id: string,
    private readonly onProblem: (problem: unknown) => void = () => {},
  ) {}

  /** Call `arrived` with what an edit has made of the job, before anything is drawn. */
  onArrival(arrived: (job: Job) => void) {
    this.arrivals.add(arrived);
    return () => void this.arrivals.delete(arrived);
  }

  /** Look at the job; once more where somebody asks while it looks. */
  look(): Promise<void> {
    this.lookAgain = true;
    this.looking ??= this.lookUntilDone();
    return this.looking;
  }

  /** The server says that the job has changed; to `head`, where only its worksheet has. */
  changed(head?: string) {
    if (head !== undefined && this.isKnownHead(head)) return;
    // An edit of our own that is on its way brings its answer with it.
    if (head !== undefined && this.sending) return void this.settled().then(() => this.changed(head));
    this.lookAgain = true;
    if (!this.looking) this.looking = wait(LOOK_EVERY).then(() => this.lookUntilDone());
  }

  /** Whether an event tells of what is known: it may come when further edits have been answered. */
  private isKnownHead(head: string): boolean {
    const since = this.awaitedEvents.get(head);
    this.awaitedEvents.delete(head);
    return head === this.server?.head || (since !== undefined && Date.now() - since < EVENT_WITHIN);
  }

  /** Make an edit; resolves with what the job has become. */
  edit(edit: Edit): Promise<Job> {
    return new Promise((resolve, reject) => {
      const entry: Waiting = { edit, editedAt: Date.now(), resolve, reject };
      const last = this.waiting.at(-1);
      if (edit.kind === "change" && last?.edit.kind === "change" && sameGesture(last.edit, edit))
        this.join(last, last.edit, edit.change, entry);
      else this.waiting.push(entry);
      this.show({ byHand: true });
      void this.send();
    });
  }

  /** What an undo takes back now: an edit that is on its way, or a head; null where that is not known. */
  findUndoTarget(): Edit | string | null {
    const made: (Edit | string | null)[] = this.path.map(({ head }) => head);
    let undone: typeof made = this.server?.can_redo ? [null] : [];
    for (const { edit } of [this.sending, ...this.waiting].filter((one) => one !== null)) {
      if (edit.kind === "undo") undone.push(made.pop() ?? null);
      else if (edit.kind === "redo") made.push(...undone.splice(-1));
      else if (changesHistory(edit)) {
        made.push(edit);
        undone = [];
      }
    }
    return made.at(-1) ?? null;
  }

  /** Whether an undo is on its way, which a redo may follow. */
  get isUndoing() {
    return [this.sending, ...this.waiting].some((one) => one?.edit.kind === "undo");
  }

  /** Make an edit, and tell what went wrong with it. */
  do(edit: Edit) {
    this.edit(edit).catch(this.onProblem);
  }

  /** Resolves when no edit is on its way. */
  async settled(): Promise<void> {
    while (this.sending) await new Promise<void>((resolve) => this.idle.push(resolve));
  }

  private join(last: Waiting, edit: Extract<Edit, { kind: "change" }>, change: StepChange, entry: Waiting) {
    const { resolve, reject } = last;
    last.edit = { ...edit, change: { ...edit.change, ...change } };
    last.editedAt = entry.editedAt;
    last.resolve = (job) => {
      resolve(job);
      entry.resolve(job);
    };
    last.reject = (problem) => {
      reject(problem);
      entry.reject(problem);
    };
  }

  private async send() {
    if (this.sending || !this.server) return;
    if (this.retrying) clearTimeout(this.retrying);
    this.retrying = null;
    for (let next = this.waiting.shift(); next; next = this.waiting.shift()) {
      const { edit } = next;
      const { can_undo, can_redo }: Job = this.server;
      if ((edit.kind === "undo" && !can_undo) || (edit.kind === "redo" && !can_redo)) {
        next.resolve(this.server);
        continue;
      }
      if (edit.kind === "undo" && this.path.at(-1)?.theirs && !this.warnedHeads.has(this.server.head)) {
        this.warnedHeads.add(this.server.head);
        next.reject(new Problem("other-window", OTHER_WINDOW, "Undo once more to take it back."));
        continue;
      }
      this.sending = next;
      this.show();
      try {
        const job = await sendEdit(this.server, edit, this.amends(next));
        this.answers++;
        this.path = extendPath(this.path, edit, job.head);
        this.take(job);
        this.awaitedEvents.set(job.head, Date.now());
        if (edit.kind === "change" && edit.change.turn)
          this.gesture = {
            step: edit.step,
            gesture: edit.gesture,
            head: job.head,
            until: next.editedAt + ONE_GESTURE,
          };
        else this.gesture.step = "";
        this.retryAfter = RETRY_AFTER[0];
        for (const arrived of this.arrivals) arrived(this.server);
        next.resolve(this.server);
      } catch (problem) {
        if (problem instanceof Problem && problem.code === "unreachable") {
          this.wait({ ...next, mayHaveArrived: true });
          break;
        }
        // Another window was faster: what is there now is shown, so that the edit can be made once more.
        if (problem instanceof Problem && problem.code === "stale") {
          await this.look();
          if (this.store.getState().problem?.code === "unreachable") {
            this.wait(next); // what is there now can't be told yet
            break;
          }
          this.warnedHeads.add(this.server.head);
          if (next.mayHaveArrived && REPEATABLE.includes(edit.kind)) {
            this.waiting.unshift({ ...next, mayHaveArrived: false });
            continue;
          }
        }
        if (changesHistory(edit) && !next.mayHaveArrived) this.dropUndo();
        next.reject(this.serverAway ? notSaved(next, this.server, problem) : problem);
      }
      this.sending = null;
    }
    if (!this.retrying) this.serverAway = false;
    this.show();
    for (const resolve of this.idle.splice(0)) resolve();
  }

  /** Of an edit that was refused there is nothing to take back: the undo that was meant for it would take another. */
  private dropUndo() {
    let [later, dropped] = [0, false];
    this.waiting = this.waiting.filter((entry) => {
      const { kind } = entry.edit;
      const meant = later === 0 && kind === (dropped ? "redo" : "undo");
      if (meant) {
        dropped = !dropped;
        if (this.server) entry.resolve(this.server);
      } else if (kind === "undo") later--;
      else if (kind !== "note") later++;
      return !meant;
    });
  }

  /** Keep an edit that didn't reach the server at the head of those that wait. */
  private wait(unsent: Waiting) {
    this.sending = null;
    this.serverAway = true;
    this.waiting.unshift(unsent);
    this.retrying = setTimeout(() => void this.send(), this.retryAfter);
    this.retryAfter = Math.min(2 * this.retryAfter, RETRY_AFTER[1]);
  }

  /** The revision that a change goes on from, where it is one gesture with the change before. */
  private amends({ edit, editedAt }: Waiting): string | undefined {
    const { head, until } = this.gesture;
    const goesOn = edit.kind === "change" && edit.change.turn && sameGesture(edit, this.gesture);
    return goesOn && editedAt < until ? head : undefined;
  }

  /** What the server says, with what has not changed as it was: rows of it need not be drawn again. */
  private take(job: Job) {
    this.server = replaceEqualDeep(this.server ?? undefined, job);
  }

  private async lookUntilDone() {
    while (this.lookAgain) {
      this.lookAgain = false;
      const { answers } = this;
      try {
        const job = await unwrap(client.GET("/api/jobs/{job_id}", { params: { path: { job_id: this.id } } }));
        if (answers !== this.answers) this.lookAgain = true;
        else {
          this.path = extendPath(this.path, null, job.head);
          this.take(job);
        }
        this.show({ problem: null });
      } catch (problem) {
        this.show({
          problem: problem instanceof Problem ? problem : new Problem("http", String(problem), ""),
        });
      }
      if (this.lookAgain) await wait(LOOK_EVERY);
    }
    this.looking = null;
    void this.send();
  }

  private show(change: Partial<WorksheetState> = {}) {
    const edits = [this.sending, ...this.waiting].flatMap((one) => (one ? [one.edit] : []));
    const before = this.store.getState();
    const job = this.server && withoutUndone(edits).reduce(applied, this.server);
    const [changing, unsaved] = [edits.length > 0, this.serverAway ? edits.length : 0];
    if (
      job !== before.job ||
      changing !== before.changing ||
      unsaved !== before.unsaved ||
      "problem" in change
    )
      this.store.setState({ byHand: false, ...change, job, changing, unsaved });
  }
}

/** Whether an undo takes it back. */
const changesHistory = ({ kind }: Edit) => !["undo", "redo", "note"].includes(kind);

/** Edits that wait, without those that an undo which waits too will take back, unless a redo brings them again. */
function withoutUndone(edits: readonly Edit[]): Edit[] {
  const [left, undone]: [Edit[], Edit[]] = [[], []];
  for (const edit of edits) {
    if (edit.kind === "undo") {
      const at = left.findLastIndex(changesHistory);
      undone.push(...(at < 0 ? [edit] : left.splice(at, 1)));
    } else if (edit.kind === "redo") left.push(undone.pop() ?? edit);
    else left.push(edit);
  }
  return left;
}

/** Why an edit that had waited could not be made, with what was meant by it. */
function notSaved({ edit, mayHaveArrived }: Waiting, job: Job | null, problem: unknown): Problem {
  const [meant, why] = [
    describeEdit(edit, job),
    problem instanceof Error ? problem.message : String(problem),
  ];
  // One that was sent as the connection broke may be what has changed the worksheet.
  if (mayHaveArrived && problem instanceof Problem && problem.code === "stale")
    return new Problem(
      "unsure",
      `Check whether this was saved: ${meant}`,
      "The connection broke as it was sent.",
    );
  return new Problem("not-saved", `Not saved: ${meant}`, why);
}

const OTHER_WINDOW = "The last change was made in another window";

type PathEntry = { head: string; theirs: boolean };

/** The path after an edit made here, or after `null`: a head that the server told of. */
function extendPath(path: readonly PathEntry[], edit: Edit | null, head: string): PathEntry[] {
  const at = path.findIndex((step) => step.head === head);
  // A look may have seen what an edit made here before its answer came.
  if (at >= 0 && edit !== null && edit.kind !== "undo")
    return [...path.slice(0, at), { head, theirs: false }];
  if (at >= 0) return path.slice(0, at + 1);
  if (path.length === 0) return [{ head, theirs: false }];
  if (edit === null) return [...path, { head, theirs: true }];
  if (edit.kind !== "undo") return [...path, { head, theirs: false }];
  // Of several changes that were heard of at once the last is known; else it is from before the page was opened.
  return path.at(-1)?.theirs ? [...path.slice(0, -1), { head, theirs: true }] : [{ head, theirs: false }];
}

type Gesture = { step: string; gesture?: string | undefined };
const sameGesture = (one: Gesture, other: Gesture) =>
  one.step === other.step && one.gesture === other.gesture;
