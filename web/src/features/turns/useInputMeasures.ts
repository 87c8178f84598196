/** What was measured about what goes into a step, and about what is heard as Out. */
import { createContext, useContext, useMemo } from "react";
import type { Clip, Step } from "../../api/client";
import { useMeasures } from "../../api/queries";
import { useSettled } from "../../shared/settled";
import type { SelectedRange } from "./kind";

/** Where the panel's clips are heard: the job, its revision, their keys, and what is selected of In. */
type WhereHeard = {
  job: string;
  revision: string;
  keyOf: (ref: string) => string;
  selected: () => SelectedRange | null;
};
export const Place = createContext<WhereHeard>({
  job: "",
  revision: "",
  keyOf: () => "",
  selected: () => null,
});

/** Of the results that are heard as Out. */
export function useOutputMeasures(step: Step, out: Clip[]) {
  const { job, revision } = useContext(Place);
  const clips = out.map((clip) => clip.ref);
  const key = out.map((clip) => clip.key).join("+");
  const wanted = useMemo(() => ({ job, revision, key }), [job, revision, key]);
  const settled = useSettled(wanted, step.id);
  return useMeasures({ job, revision: settled.revision, clips: clips.length > 4 ? [] : clips }, settled.key);
}

export function useInputMeasures(step: Step) {
  const { job, revision, keyOf } = useContext(Place);
  return useMeasures({ job, revision, clips: step.inputs }, step.inputs.map(keyOf).join("+"));
}
