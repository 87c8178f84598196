/** The questions about a job's files, one after the other, each with its answer tried before it is taken. */
import { useState } from "react";
import type { Job } from "../api/client";
import { useDraft } from "../api/queries";
import type { Worksheet } from "../api/worksheet";
import { useShortcuts } from "../shared/keys";

export function useQuestions(job: Job, edits: Worksheet) {
  const { questions } = job.preparation;
  const [at, setAt] = useState<number | null>(null);
  /** At which question each answer was given, the last one last. */
  const [answered, setAnswered] = useState<readonly number[]>([]);
  const place = at === null ? null : Math.min(at, questions.length - 1);
  const question = place === null || place < 0 ? null : (questions[place] ?? null);
  const draft = useDraft(job, question);
  // The draft of another head, or of the question before, is not this one's.
  const tried = question?.remedy && draft.data?.base === job.head ? draft.data.job : null;
  const step = tried?.steps.at(-1) ?? null;

  const close = () => {
    setAt(null);
    setAnswered([]);
  };
  const answer = () => {
    if (place !== null) setAnswered([...answered, place]);
  };
  const take = () => {
    if (!tried) return;
    answer();
    edits.do({ kind: "restore", revision: tried.head });
  };
  const dismiss = () => {
    if (!question) return;
    answer();
    edits.do({ kind: "dismiss", findings: [{ ref: question.ref, code: question.code }], dismissed: true });
  };
  const back = () => {
    const last = answered.at(-1);
    if (last === undefined) return;
    setAnswered(answered.slice(0, -1));
    setAt(last);
    edits.do({ kind: "undo" });
  };
  const asking = at !== null;
  useShortcuts("Questions", [
    { keys: ["y"], text: "take the suggested turn", ...(asking && { run: take }) },
    { keys: ["n"], text: "dismiss the question", ...(asking && { run: dismiss }) },
    { keys: ["z"], text: "undo the last answer", ...(asking && { run: back }) },
  ]);
  return {
    asking,
    question,
    number: answered.length + 1,
    of: answered.length + questions.length,
    /** The job with the answer added to it. */
    tried,
    step,
    take,
    dismiss,
    back: answered.length ? back : null,
    begin: () => setAt(0),
    close,
  };
}
