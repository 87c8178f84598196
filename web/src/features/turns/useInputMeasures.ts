/** What was measured about what goes into a step. */
import { createContext, useContext } from "react";
import type { Step } from "../../api/client";
import { useMeasures } from "../../api/queries";

/** Where the panel's clips are heard: the job, its revision, and their keys. */
export const Place = createContext<{ job: string; revision: string; keyOf: (ref: string) => string }>({
  job: "",
  revision: "",
  keyOf: () => "",
});

export function useInputMeasures(step: Step) {
  const { job, revision, keyOf } = useContext(Place);
  return useMeasures({ job, revision, clips: step.inputs }, step.inputs.map(keyOf).join("+")).data;
}
