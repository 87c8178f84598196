/** Files on their way to any job, for as long as the application is open: two at a time, in the order they came. */
import { createStore } from "zustand/vanilla";
import { Problem } from "../../api/client";
import { upload } from "../../api/upload";
import { tell } from "../../shared/notices";

/** A file and the folder it was dropped from. */
export type DroppedFile = { file: File; folder: string };
export type Upload = DroppedFile & {
  id: number;
  job: string;
  share: number;
  /** The connection is lost, and it waits to go on. */
  waiting: boolean;
  /** What can be read of it is taken, though it is incomplete. */
  salvage: boolean;
  problem: Problem | null;
};
const AT_ONCE = 2;

export class UploadStore {
  readonly store = createStore<{ all: readonly Upload[] }>(() => ({ all: [] }));
  private queue: { one: Upload; known: ReadonlySet<string> }[] = [];
  private aborts = new Map<number, AbortController>();
  private arrived = new Set<string>();
  /** Names of files that a job had already, until that is told. */
  private had = new Map<string, string[]>();
  private next = 0;
  private listeners = new Set<(job: string) => void>();

  /** Call `listener` with a job for which nothing is on its way any more. */
  onDone(listener: (job: string) => void) {
    this.listeners.add(listener);
    return () => void this.listeners.delete(listener);
  }

  /** Send files to a job that has the sources `known`. */
  add(job: string, files: readonly DroppedFile[], known: Iterable<string>) {
    const before = new Set(known);
    const fresh = files.map((one) => ({
      ...one,
      job,
      id: this.next++,
      share: 0,
      waiting: false,
      salvage: false,
      problem: null,
    }));
    this.queue.push(...fresh.map((one) => ({ one, known: before })));
    this.set([...this.all, ...fresh]);
    this.pump();
  }

  /** Stop a file, or take away what is said of one that failed. */
  dismiss(id: number) {
    this.aborts.get(id)?.abort();
    this.queue = this.queue.filter(({ one }) => one.id !== id);
    this.set(this.all.filter((one) => one.id !== id));
  }

  /** Send a file once more that failed; to `salvage` is to take what there is of it. */
  again(id: number, salvage = false) {
    this.patch(id, { problem: null, share: 0, waiting: false, salvage });
    const one = this.all.find((upload) => upload.id === id);
    if (!one) return;
    this.queue.push({ one, known: new Set() });
    this.pump();
  }

  dismissFailed(job: string) {
    this.set(this.all.filter((one) => one.job !== job || !one.problem));
  }

  stopAll(job: string) {
    for (const one of this.all) if (one.job === job && !one.problem) this.dismiss(one.id);
  }

  private get all() {
    return this.store.getState().all;
  }

  private set(all: readonly Upload[]) {
    this.store.setState({ all });
    // A page that is left would break off what is still on its way.
    const listen = all.some((one) => !one.problem) ? window.addEventListener : window.removeEventListener;
    listen.call(window, "beforeunload", warn as EventListener);
  }

  private patch(id: number, change: Partial<Upload>) {
    this.set(this.all.map((one) => (one.id === id ? { ...one, ...change } : one)));
  }

  private pump() {
    while (this.aborts.size < AT_ONCE) {
      const next = this.queue.shift();
      if (!next) return;
      void this.send(next.one, new Set([...next.known, ...this.arrived]));
    }
  }

  /** Once for all of them. */
  private tellOfThoseItHad(job: string) {
    const names = this.had.get(job) ?? [];
    this.had.delete(job);
    if (names.length === 1) tell(`${names[0]} is already in this job`, "It was not added again.");
    else if (names.length)
      tell(`${names.length} files are already in this job`, "They were not added again.");
  }

  private async send(one: Upload, known: ReadonlySet<string>) {
    const abort = new AbortController();
    this.aborts.set(one.id, abort);
    try {
      const progress = (share: number, waiting: boolean) => this.patch(one.id, { share, waiting });
      const source = await upload(one.job, one, progress, abort.signal);
      if (known.has(source)) this.had.set(one.job, [...(this.had.get(one.job) ?? []), one.file.name]);
      this.arrived.add(source);
      this.aborts.delete(one.id); // it has arrived: there is nothing left to stop
      this.dismiss(one.id);
    } catch (problem) {
      this.aborts.delete(one.id);
      if (problem instanceof Problem && problem.code !== "stopped") this.patch(one.id, { problem });
    }
    if (!this.all.some(({ job, problem }) => job === one.job && !problem)) {
      this.tellOfThoseItHad(one.job);
      for (const listener of this.listeners) listener(one.job);
    }
    this.pump();
  }
}

const warn = (event: BeforeUnloadEvent) => event.preventDefault();

export const uploadStore = new UploadStore();
