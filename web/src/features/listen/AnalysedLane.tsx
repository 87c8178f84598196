/** What is fetched for a lane beside its waveform, and the fan beside it. */
import type { ReactNode } from "react";
import type { Analysis } from "../../api/client";
import { useAnalysis } from "../../api/queries";
import { type LaneClips, laneChannels, laneFrames } from "./lane";
import type { Playable } from "./player";
import type { Range } from "./Stage";

type Props = {
  lane: LaneClips;
  playable: Playable;
  range: Range | null;
  children: (analysis: Analysis | undefined) => ReactNode;
};

/** The analysis of a lane over the range, or over all of it where there is none. */
export function Analysed({ lane, playable, range, children }: Props) {
  const frames = laneFrames(lane);
  const [start, end] = range ?? [0, frames];
  const stretch = [Math.min(start, frames), Math.min(end, frames)] as const;
  const analysis = useAnalysis(playable.view, playable.key, stretch, laneChannels(lane) <= 2);
  return children(analysis.data);
}
