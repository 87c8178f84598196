/** What was measured about what goes into a step. */
import { createContext, useContext, useMemo } from "react";
import type { Step } from "../../api/client";
import { useMeasures } from "../../api/queries";
import { useSettled } from "../../shared/settled";

/** Where the panel's clips are heard: the job, its revision, and their keys. */
export const Place = createContext<{ job: string; revision: string; keyOf: (ref: string) => string }>({
  job: "",
  revision: "",
  keyOf: () => "",
});

export function useOutputMeasures(step: Step) {
  const { job, revision } = useContext(Place);
  const clips = step.outputs.map((clip) => clip.ref);
  const key = step.outputs.map((clip) => clip.key).join("+");
  const wanted = useMemo(() => ({ job, revision, key }), [job, revision, key]);
  const settled = useSettled(wanted, step.id);
  return useMeasures({ job, revision: settled.revision, clips: clips.length > 4 ? [] : clips }, settled.key)
    .data;
}

export function useInputMeasures(step: Step) {
  const { job, revision, keyOf } = useContext(Place);
  return useMeasures({ job, revision, clips: step.inputs }, step.inputs.map(keyOf).join("+")).data?.measures;
}
