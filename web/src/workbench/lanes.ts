/** What is heard and seen as In and as Out, by what is chosen. */
import type { Clip, Job, Step } from "../api/client";
import type { LaneClips } from "../features/listen";
import { kindOf } from "../features/turns";
import { ratesOf } from "../shared/format";

type Lanes = [input: LaneClips | null, output: LaneClips | null];

export function lanesOf(step: Step | null, chosen: readonly string[], clips: Map<string, Clip>): Lanes {
  const find = (refs: readonly string[]) => refs.flatMap((ref) => clips.get(ref) ?? []);
  if (step) {
    const { axes, lanes } = kindOf(step.turn);
    const { before, after } = axes(step);
    const { out, later } = lanes(step, step.turn);
    const input = find(step.inputs);
    // In and Out are played side by side where they have one sample rate.
    if (ratesOf([...input, ...out]).length > 1) return [{ label: "Out", clips: out }, null];
    return [
      { label: "In", clips: input, midSide: before === "mid-side" },
      { label: "Out", clips: out, later, midSide: after === "mid-side" },
    ];
  }
  // Files of one rate can be laid side by side; of others the one that was chosen last is shown.
  const all = find(chosen);
  const last = all.at(-1);
  const together = all.length === 2 && all.every((clip) => clip.channels === 1 && clip.rate === last?.rate);
  return [last ? { label: "In", clips: together ? all : [last] } : null, null];
}

/** A line as it was in an earlier version, which stands last in `then`, and as it is now. */
export function lanesOfVersions(then: Job | null, now: Job, id: string): Lanes {
  const lane = (label: LaneClips["label"], step: Step | undefined): LaneClips | null =>
    step ? { label, clips: step.outputs, midSide: kindOf(step.turn).axes(step).after === "mid-side" } : null;
  const before = lane("In", then?.steps.at(-1));
  const after = lane(
    "Out",
    now.steps.find((step) => step.id === id),
  );
  if (ratesOf([...(before?.clips ?? []), ...(after?.clips ?? [])]).length > 1) return [after, null];
  return [before, after];
}
