/** What the page and the audio graph send each other. */

/** 0 is In, 1 is Out. */
export type Side = 0 | 1;
export const SIDES = [0, 1] as const;

/**
 * `clip` says what is heard, `key` with which samples: a changed setting changes the key alone. `gains` holds one gain
 * for each channel, for the left ear and then for the right.
 */
export type SideSetup = { clip: string; key: string; channels: number; gains: readonly number[] };

/** The epoch counts what the user did to position and playing: a report of an earlier one is out of date. */
export type ToGraph =
  | { kind: "sides"; sides: [SideSetup, SideSetup]; blockFrames: number; frames: number }
  | { kind: "block"; side: Side; clip: string; key: string; index: number; data: Float32Array }
  | { kind: "drop"; side: Side; index: number }
  | { kind: "gains"; gains: [readonly number[], readonly number[]] }
  | { kind: "monitor"; side: Side; difference: boolean }
  | { kind: "loop"; loop: readonly [number, number] | null }
  | { kind: "seek"; position: number; epoch: number }
  | { kind: "play"; playing: boolean; epoch: number };

/** `heard` are the last frames that left the graph, left and right in turn. */
export type FromGraph = {
  epoch: number;
  position: number;
  playing: boolean;
  waiting: boolean;
  heard: Float32Array | null;
};
