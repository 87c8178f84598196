/** The questions about a job's files, one after the other, each with its answer tried before it is taken. */
import { useState } from "react";
import type { Job, Question } from "../api/client";
import type { Edit } from "../api/edits";
import { useDraft } from "../api/queries";
import type { Worksheet } from "../api/worksheet";
import { useShortcuts } from "../shared/keys";
import { tell, tellProblem } from "../shared/notices";

/** A question is what is asked about which file, wherever in the list it stands now. */
export const questionKey = ({ ref, code }: Pick<Question, "ref" | "code">) => `${ref} ${code}`;

/** The question of a key; where it is gone, the one that stands in its place. */
export function questionAt(
  questions: readonly Question[],
  key: string | null,
  place: number,
): Question | null {
  const same = questions.find((one) => questionKey(one) === key);
  return same ?? questions[Math.min(place, questions.length - 1)] ?? null;
}

type At = { key: string | null; place: number; awaited: boolean };
/** An answer that was given: to what, and the head that it made; null while that is not known. */
type Answer = { key: string; head: string | null };

export function useQuestions(job: Job, edits: Worksheet) {
  const { questions } = job.preparation;
  const [asking, setAsking] = useState(false);
  /** What is asked, and where in the list it stood; `awaited` where an undo is about to bring it back. */
  const [at, setAt] = useState<At>({ key: null, place: 0, awaited: false });
  const [answered, setAnswered] = useState<readonly Answer[]>([]);
  const question = asking ? questionAt(questions, at.key, at.place) : null;
  const key = question && questionKey(question);
  // Files are measured meanwhile, and questions come and go before this one: it stays the one that is asked.
  if (question && key !== at.key && !at.awaited)
    setAt({ key, place: questions.indexOf(question), awaited: false });
  const draft = useDraft(job, question);
  // The draft of another head, or of the question before, is not this one's.
  const tried = question?.remedy && draft.data?.base === job.head ? draft.data.job : null;
  const step = tried?.steps.at(-1) ?? null;

  const close = () => {
    setAsking(false);
    setAnswered([]);
  };
  const answer = (edit: Edit) => {
    // What is drawn may be older than the last answer.
    const now = edits.store.getState().job?.preparation.questions ?? [];
    const known = answered.some((one) => one.key === key && one.head === null);
    if (!key || known || !now.some((one) => questionKey(one) === key)) return;
    setAt({ key, place: questions.findIndex((one) => questionKey(one) === key), awaited: false });
    setAnswered((all) => [...all.filter((one) => one.key !== key), { key, head: null }]);
    edits.edit(edit).then(
      ({ head }) => setAnswered((all) => all.map((one) => (one.key === key ? { key, head } : one))),
      (problem: unknown) => {
        setAnswered((all) => all.filter((one) => one.key !== key));
        tellProblem(problem);
      },
    );
  };
  const take = () => {
    if (tried) answer({ kind: "restore", revision: tried.head });
  };
  const dismiss = () => {
    if (question)
      answer({
        kind: "dismiss",
        findings: [{ ref: question.ref, code: question.code }],
        dismissed: true,
      });
  };
  const back = () => {
    const last = answered.at(-1);
    if (!last?.head) return;
    setAnswered(answered.slice(0, -1));
    if (last.head !== edits.store.getState().job?.head)
      return tell(
        "The last answer can’t be undone here",
        "The worksheet has changed since. Use Undo, or History.",
      );
    setAt({ key: last.key, place: 0, awaited: true });
    edits.do({ kind: "undo" });
  };
  useShortcuts("Questions", [
    { keys: ["y"], text: "take the suggested turn", ...(asking && { run: take }) },
    { keys: ["n"], text: "dismiss the question", ...(asking && { run: dismiss }) },
    { keys: ["z"], text: "undo the last answer", ...(asking && { run: back }) },
  ]);
  const open = new Set(questions.map(questionKey));
  const done = answered.filter((one) => !open.has(one.key)).length;
  return {
    asking,
    question,
    number: done + 1,
    of: done + questions.length,
    /** The job with the answer added to it. */
    tried,
    step,
    /** Why the answer could not be tried. */
    problem: question?.remedy && draft.error ? draft.error : null,
    retry: () => void draft.refetch(),
    take,
    dismiss,
    back: answered.length ? back : null,
    begin: () => {
      setAt({ key: null, place: 0, awaited: false });
      setAsking(true);
    },
    close,
  };
}
