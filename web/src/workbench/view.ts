/** What the state of the workbench comes to on the page: the job, the line and the files that are shown. */
import type { Clip, Job, Step } from "../api/client";
import { findDraft } from "./previews";
import { questionOf } from "./questions";
import type { WorkbenchState } from "./store";

/** The job with what is tried. */
export const shownJob = (state: WorkbenchState): Job => findDraft(state) ?? state.job;

export const isAsking = ({ preview }: WorkbenchState) => preview?.kind === "question";

/** The question that is asked; null where none is, or all are answered. */
export const askedQuestion = ({ preview, job }: WorkbenchState) =>
  preview?.kind === "question" ? questionOf(job, preview.progress) : null;

/** The line that is seen and heard: that of a question is the one that its answer would add. */
export function shownStep(state: WorkbenchState): Step | null {
  if (isAsking(state)) return findDraft(state)?.steps.at(-1) ?? null;
  return shownJob(state).steps.find(({ id }) => id === state.line) ?? null;
}

/** The files that are seen and heard where no line is. */
export const shownFiles = (state: WorkbenchState): readonly string[] =>
  askedQuestion(state)?.inputs ?? state.files;

/** All clips of a job by reference. */
export const clipsOf = (job: Job): Map<string, Clip> =>
  new Map([...job.sources, ...job.steps.flatMap((step) => step.outputs)].map((clip) => [clip.ref, clip]));
