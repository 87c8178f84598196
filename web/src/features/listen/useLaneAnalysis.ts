/** The analysis of a lane over the range, or over all of it where there is none. */
import { useAnalysis } from "../../api/queries";
import { useListen } from "./context";
import { laneChannels, laneFrames } from "./lane";
import type { ShownLane } from "./listenState";
import type { Range } from "./viewport";

/** The stretch of a lane that its pictures show. */
export function useStretch({ lane }: ShownLane): Range {
  const range = useListen((state) => state.range);
  const frames = laneFrames(lane);
  return [Math.min(range?.[0] ?? 0, frames), Math.min(range?.[1] ?? frames, frames)];
}

export const useLaneAnalysis = (shown: ShownLane) =>
  useAnalysis(shown.playable.view, shown.playable.key, useStretch(shown), laneChannels(shown.lane) <= 2);
