/** Questions about a job's files, asked one after the other: which one is asked, and which were answered. */
import type { Job, Question } from "../api/client";
import type { Edit } from "../model/edits";

/** A question is what is asked about which file, wherever in the list it stands now. */
export const questionKey = ({ ref, code }: Pick<Question, "ref" | "code">) => `${ref} ${code}`;

/** An answer that was given: to what, by which edit, and the head that it made; null while it is on its way. */
export type Answer = { key: string; edit: Edit; head: string | null };

export type QuestionProgress = {
  /** What is asked, and where in the list it stood; null until one is. */
  key: string | null;
  place: number;
  /** An undo is on its way that brings it back. */
  awaited: boolean;
  answered: readonly Answer[];
};

export const FIRST_QUESTION: QuestionProgress = { key: null, place: 0, awaited: false, answered: [] };

/** The question that is asked; where it is gone, the one that stands in its place. */
export function questionOf(job: Job, { key, place }: QuestionProgress): Question | null {
  const { questions } = job.preparation;
  const same = questions.find((one) => questionKey(one) === key);
  return same ?? questions[Math.min(place, questions.length - 1)] ?? null;
}

/** Files are measured meanwhile, and questions come and go before this one: it stays the one that is asked. */
export function updateProgress(progress: QuestionProgress, job: Job): QuestionProgress {
  if (progress.awaited) return progress;
  const question = questionOf(job, progress);
  const key = question && questionKey(question);
  const place = question ? job.preparation.questions.indexOf(question) : progress.place;
  return key === progress.key && place === progress.place
    ? progress
    : { ...progress, key: key ?? progress.key, place };
}

/** Where the question stands among all of them, from 1. */
export function countQuestions({ answered }: QuestionProgress, job: Job): { number: number; of: number } {
  const open = new Set(job.preparation.questions.map(questionKey));
  const done = answered.filter((one) => !open.has(one.key)).length;
  return { number: done + 1, of: done + open.size };
}
