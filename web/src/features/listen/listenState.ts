/** What a listening session holds. */

import type { Playable } from "./blocks";
import { type LaneClips, playable } from "./lane";
import type { Side } from "./messages";
import { gainsFor, type Mode } from "./modes";
import type { PictureName } from "./pictureNames";
import type { PlayerState } from "./player";
import type { Range, Viewport } from "./viewport";

export const HEIGHTS = [1, 2, 4, 8, 16, 32, 64];
export type Labels = readonly [input: string, output: string, difference: string];
export type Shown = {
  job: string;
  revision: string;
  input: LaneClips | null;
  output: LaneClips | null;
  /** What In, Out and In − Out are, where they have names of their own. */
  labels: Labels;
  /** The picture that shows best what is done. */
  picture: PictureName;
};
/**
 * How a level match stands: no louder than a limit (`limited`), or not at all, since one of both is silent or could not
 * be measured.
 */
export type Matching = "measuring" | "matched" | "limited" | "silent" | "failed";
export type ShownLane = { lane: LaneClips; playable: Playable };

export type ListenState = PlayerState & {
  shown: Shown;
  /** The lanes that are heard, and as they are drawn. */
  lanes: readonly ShownLane[];
  drawn: readonly ShownLane[];
  rate: number;
  frames: number;
  channels: number;
  monitor: Side;
  difference: boolean;
  mode: Mode;
  pair: readonly [number, number];
  matched: boolean;
  /** What Out is multiplied by, so that it is as loud as In, and what that came of. */
  match: number;
  matching: Matching;
  range: Range | null;
  loop: boolean;
  viewport: Viewport;
  /** Pixels of the time axis. */
  width: number;
  height: number;
  /** Every clip is drawn as high as there is room, by its own peak. */
  fitHeight: boolean;
  picture: PictureName;
  midSide: boolean;
  /** The frequency under the pointer, in hertz, and the frame. */
  pointed: number | null;
  pointedFrame: number | null;
};

const NOTHING: Shown = {
  job: "",
  revision: "",
  input: null,
  output: null,
  labels: ["In", "Out", "In − Out"],
  picture: "wave",
};

export const INITIAL: ListenState = {
  playing: false,
  waiting: false,
  problem: null,
  shown: NOTHING,
  lanes: [],
  drawn: [],
  rate: 48_000,
  frames: 0,
  channels: 0,
  monitor: 1,
  difference: false,
  mode: "stereo",
  pair: [0, 1],
  matched: false,
  match: 1,
  matching: "measuring",
  range: null,
  loop: true,
  viewport: { start: 0, scale: 1 },
  width: 800,
  height: 0,
  fitHeight: false,
  picture: "wave",
  midSide: false,
  pointed: null,
  pointedFrame: null,
};

export const refsOf = (lane: LaneClips | null) => lane?.clips.map((clip) => clip.ref).join("+") ?? "";
export const keysOf = (lanes: readonly ShownLane[]) =>
  lanes.map((one) => `${one.lane.label} ${refsOf(one.lane)} ${one.playable.key}`).join("|");
export const lanesOf = ({ input, output, job, revision }: Shown): ShownLane[] =>
  [input, output].flatMap((lane) => {
    const play = playable(lane, job, revision);
    return lane && play ? [{ lane, playable: play }] : [];
  });

/** What the channels of In and Out are multiplied by, for the left ear and then for the right. */
export function gainsOf(state: ListenState): [readonly number[], readonly number[]] {
  const { lanes, mode, pair, matched, match, difference } = state;
  // A difference is of the samples as they are: of anything else it would not be silent where both are the same.
  const louder = matched && !difference ? match : 1;
  const of = (side: Side) => {
    const channels = lanes[side]?.playable.channels ?? 0;
    const last = Math.max(0, channels - 1);
    const gains = gainsFor(mode, channels, [Math.min(pair[0], last), Math.min(pair[1], last)]);
    return side && louder !== 1 ? gains.map((gain) => gain * louder) : gains;
  };
  return [of(0), of(1)];
}
