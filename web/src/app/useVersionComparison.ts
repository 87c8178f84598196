/** A line of an earlier version, heard against what it is now. */
import type { Job, Step } from "../api/client";
import { useBeside } from "../api/queries";
import type { Compared } from "../features/history";
import type { LaneClips } from "../features/listen";
import { kindOf } from "../features/turns";

export function useVersionComparison(current: Job, compared: Compared | null) {
  const { data, error } = useBeside(current, compared);
  const job = data ?? null;
  const was = job?.steps.at(-1) ?? null;
  const now = current.steps.find(({ id }) => id === compared?.step) ?? null;
  const input = was && laneOf("In", was, was.outputs);
  const output = now && laneOf("Out", now, now.outputs);
  return { job, was, now, lanes: [input, output] as const, problem: error };
}

const laneOf = (label: LaneClips["label"], step: Step, clips: Step["outputs"]): LaneClips => ({
  label,
  clips,
  midSide: kindOf(step.turn).axes(step).after === "mid-side",
});
