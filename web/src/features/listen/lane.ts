/** A lane is one or more clips laid side by side: their channels are counted through. */
import type { Clip, Job } from "../../api/client";
import type { Playable } from "./blocks";

/**
 * `midSide` says that its two channels are mid and side, not left and right; `later` is by how many frames it begins
 * after In does, so that both are seen and heard at the same instant.
 */
export type LaneClips = {
  label: "In" | "Out";
  clips: readonly Clip[];
  midSide?: boolean;
  later?: number;
};

export const laneFrames = (lane: LaneClips | null) =>
  Math.max(0, ...(lane?.clips.map((c) => c.frames) ?? []));
/** Where it ends on the time axis. */
export const laneEnd = (lane: LaneClips | null) => laneFrames(lane) + (lane?.later ?? 0);
export const laneChannels = (lane: LaneClips) => lane.clips.reduce((sum, clip) => sum + clip.channels, 0);
export const laneName = (lane: LaneClips) => lane.clips.map((clip) => clip.name).join(" + ");

export const playable = (lane: LaneClips | null, job: string, revision: string): Playable | null =>
  lane && {
    key: lane.clips.map((clip) => clip.key).join("+"),
    view: { job, revision, clips: lane.clips.map((clip) => clip.ref) },
    channels: laneChannels(lane),
    later: lane.later ?? 0,
  };

/** The lane after a change of the job; null where one of its clips is gone or has another shape. */
export function laterLane(lane: LaneClips, job: Job): LaneClips | null {
  const known = new Map<string, Clip>();
  for (const clip of [...job.sources, ...job.steps.flatMap((step) => step.outputs)])
    known.set(clip.ref, clip);
  const clips = lane.clips.flatMap((clip) => {
    const now = known.get(clip.ref);
    const same = now?.frames === clip.frames && now.channels === clip.channels && now.rate === clip.rate;
    return now && same ? [now] : [];
  });
  return clips.length === lane.clips.length ? { ...lane, clips } : null;
}
