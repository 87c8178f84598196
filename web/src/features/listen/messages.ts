/** What the page and the audio graph tell each other. */

/** 0 is In, 1 is Out. */
export type Side = 0 | 1;

/** `gains` holds for the left ear, then the right, one gain for each channel. */
export type SideSetup = { key: string; channels: number; gains: number[] };

export type ToGraph =
  | { kind: "sides"; sides: [SideSetup, SideSetup]; blockFrames: number; frames: number }
  | { kind: "block"; side: Side; key: string; index: number; data: Float32Array }
  | { kind: "drop"; side: Side; index: number }
  | { kind: "gains"; gains: [number[], number[]] }
  | { kind: "side"; side: Side }
  | { kind: "apart"; apart: boolean }
  | { kind: "loop"; loop: [number, number] | null }
  | { kind: "seek"; position: number }
  | { kind: "play"; playing: boolean };

/** `heard` are the last frames that left the graph, left and right in turn. */
export type FromGraph = { position: number; playing: boolean; waiting: boolean; heard: Float32Array | null };
