/** The analysis of a lane over the range, or over all of it where there is none. */
import { useAnalysis } from "../../api/queries";
import { useSettled } from "../../shared/settled";
import { useListen } from "./context";
import { laneChannels, laneFrames } from "./lane";
import type { ShownLane } from "./listenState";
import type { Range } from "./viewport";

/** The stretch of a lane that its pictures show: while the range is dragged, that of before. */
export function useStretch({ lane }: ShownLane): Range {
  const range = useSettled(
    useListen((state) => state.range),
    "range",
  );
  const frames = laneFrames(lane);
  const later = lane.later ?? 0;
  const within = (frame: number) => Math.max(0, Math.min(frame - later, frames));
  return range ? [within(range[0]), within(range[1])] : [0, frames];
}

export const useLaneAnalysis = (shown: ShownLane) =>
  useAnalysis(shown.playable.view, shown.playable.key, useStretch(shown), laneChannels(shown.lane) <= 2);
