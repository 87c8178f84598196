/** What was measured about what goes into a step, and about what is heard as Out. */
import { createContext, useContext, useMemo } from "react";
import type { Clip, NewStep, Step } from "../../api/client";
import { useMeasures } from "../../api/queries";
import type { SelectedRange } from "../../shared/places";
import { useSettled } from "../../shared/settled";

/** Where the panel's clips are heard: the job, its revision, its files, the keys of clips, what is selected of In, and the
 * playhead. */
type WhereHeard = {
  job: string;
  revision: string;
  keyOf: (ref: string) => string;
  selected: () => SelectedRange | null;
  /** In frames of what is heard. */
  playhead: () => number;
  /** The files of the job. */
  files: readonly Clip[];
  /** Put a turn before a line, which takes its result then. */
  insertBefore: (line: string, step: NewStep) => void;
};
export const Place = createContext<WhereHeard>({
  job: "",
  revision: "",
  keyOf: () => "",
  selected: () => null,
  playhead: () => 0,
  files: [],
  insertBefore: () => {},
});

/** More results than this are not measured together: they are no one sound. */
export const MOST_TOGETHER = 4;

/** Of the results that are heard as Out. */
export function useOutputMeasures(step: Step, out: Clip[]) {
  const { job, revision } = useContext(Place);
  const clips = out.map((clip) => clip.ref);
  const key = out.map((clip) => clip.key).join("+");
  const wanted = useMemo(() => ({ job, revision, key }), [job, revision, key]);
  const settled = useSettled(wanted, step.id);
  return useMeasures(
    { job, revision: settled.revision, clips: clips.length > MOST_TOGETHER ? [] : clips },
    settled.key,
  );
}

export function useInputMeasures(step: Step) {
  const { job, revision, keyOf } = useContext(Place);
  const clips = step.waits_for === null ? step.inputs : [];
  return useMeasures({ job, revision, clips }, clips.map(keyOf).join("+"));
}
