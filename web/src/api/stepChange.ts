/** Changing a step of the worksheet while a hand is on a setting. */
import { useCallback, useEffect, useRef, useState } from "react";
import type { JobActions, StepChange } from "./actions";

/** Changes of a setting that follow each other within this time are one: undo takes them back together. */
const ONE_GESTURE = 1500; // milliseconds

type Drafts = Readonly<Record<string, StepChange>>;
const without = (drafts: Drafts, step: string): Drafts => {
  const { [step]: _, ...others } = drafts;
  return others;
};

/**
 * Changing a step while a slider moves: one change is on its way at a time, and what comes meanwhile for a step is sent
 * as one. Each takes the place of the one before, so that the worksheet's history holds the gesture once.
 * Until the last has been answered the drafts are what holds: what is changed next builds on them, not on an answer
 * that is already behind.
 */
export function useStepChange(actions: JobActions, head: string, onError: (problem: unknown) => void) {
  const [drafts, setDrafts] = useState<Drafts>({});
  const state = useRef({
    busy: false,
    waiting: new Map<string, StepChange>(),
    gesture: { step: "", head: "", until: 0 },
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: a worksheet that arrives is when to look.
  useEffect(() => {
    if (!state.current.busy) setDrafts({});
  }, [head]);
  const { mutateAsync } = actions.change;
  const change = useCallback(
    async (step: string, change: StepChange) => {
      setDrafts((before) => ({ ...before, [step]: { ...before[step], ...change } }));
      const now = state.current;
      now.waiting.set(step, { ...now.waiting.get(step), ...change });
      if (now.busy) return;
      now.busy = true;
      for (const [step, change] of now.waiting) {
        now.waiting.delete(step);
        const { gesture } = now;
        const goesOn = change.turn && gesture.step === step && Date.now() < gesture.until;
        const amends = goesOn ? { amends: gesture.head } : {};
        await mutateAsync({ step, ...change, ...amends }).then(
          ({ head }) => {
            now.gesture = { step: change.turn ? step : "", head, until: Date.now() + ONE_GESTURE };
          },
          (problem: unknown) => {
            onError(problem);
            setDrafts((drafts) => without(drafts, step));
          },
        );
      }
      now.busy = false;
    },
    [mutateAsync, onError],
  );
  return { drafts, change };
}
