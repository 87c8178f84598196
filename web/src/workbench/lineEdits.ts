/** Turns added, and inputs chosen anew: where the core refuses them for a reason that a kind knows a way past, that. */
import type { Job, NewStep, Step, Turn } from "../api/client";
import { findFallbackSteps } from "../features/turns";
import type { LinePlace } from "../model/edits";
import type { Worksheet } from "../model/worksheet";

export const addSteps = (edits: Worksheet, steps: NewStep[], place?: LinePlace): Promise<Job> =>
  edits.edit({ kind: "add", steps, place }).catch((problem: unknown) => {
    const others = findFallbackSteps(steps, problem);
    if (!others) throw problem;
    return edits.edit({ kind: "add", steps: others, place });
  });

export const setInputs = (edits: Worksheet, { id, turn }: Step, inputs: string[]) =>
  edits.edit({ kind: "change", step: id, change: { inputs } }).catch((problem: unknown) => {
    const [other] = findFallbackSteps([{ turn, inputs, names: [] }], problem) ?? [];
    if (!other) throw problem;
    return edits.edit({ kind: "change", step: id, change: { inputs, turn: other.turn as Turn } });
  });

/** Files that are there, and what the lines before this one make. */
export function choicesBefore(job: Job, id: string) {
  const at = job.steps.findIndex((one) => one.id === id);
  const earlier = job.steps.slice(0, at).flatMap((one) => one.outputs);
  return [...job.sources.filter((one) => !one.archived), ...earlier];
}
