/** Things of a job for tests. */
import type { Clip, FileFinding, Group, Job, Proof, Source, Step } from "./client";
import type { Kind, Of } from "./turns";

const RECORDED: Source["recorded"] = {
  project: "",
  scene: "",
  take: "",
  tape: "",
  note: "",
  recorder: "",
  date: "",
  encoder: "",
  history: [],
  sound_tracks: [],
  left_out: [],
  picture: false,
};

export const clip = (name: string, channels = 1, more: Partial<Clip> = {}): Clip => ({
  ref: `source:${name}`,
  key: name,
  name,
  channels,
  frames: 96_000,
  rate: 48_000,
  depth: "24",
  container: "WAV",
  lossy: false,
  speakers: [],
  labels: [],
  start_time: null,
  time_code: null,
  frame_rate: null,
  ...more,
});

export const source = (name: string, channels = 1, more: Partial<Source> = {}): Source => ({
  ...clip(name, channels),
  id: name,
  file: `${name}.wav`,
  folder: "",
  bytes: 1,
  archived: false,
  measured: true,
  loudness: -20,
  peak: -3,
  field: [],
  findings: [],
  same_as: [],
  note: "",
  recorded: RECORDED,
  problem: null,
  ...more,
});

export const findingOf = (code: string, more: Partial<FileFinding> = {}): FileFinding => ({
  code,
  label: code,
  message: `About ${code}.`,
  measured: {},
  remedy: null,
  others: [],
  ...more,
});

export const group = (name: string, members: string[], more: Partial<Group> = {}): Group => ({
  kind: "stereo-pair",
  name,
  members,
  speakers: ["FL", "FR"],
  by_hand: false,
  turn: { kind: "merge", order: "by-name", line_up: "recorded", length: "pad", layout: "auto" },
  label: "merge",
  done: false,
  refused: null,
  doubt: null,
  findings: [],
  ...more,
});

export const proof = (more: Partial<Proof> = {}): Proof => ({
  kind: "round-trip",
  exact: true,
  bits: 24,
  depth: "24-bit",
  residual_dbfs: null,
  samples: 10,
  different: 0,
  statement: "All came back.",
  ...more,
});

export const mergeStep = (more: Partial<Step> = {}): Step => ({
  id: "m",
  turn: { kind: "merge", order: "by-name", line_up: "recorded", length: "pad", layout: "auto" },
  verb: "merge",
  sentence: "bell_L goes fully left and bell_R fully right.",
  inputs: ["source:bell_L", "source:bell_R"],
  outputs: [clip("bell", 2, { ref: "step:m:0" })],
  carries: [[["bell_L"], ["bell_R"]]],
  matrix: [
    [1, 0],
    [0, 1],
  ],
  exact: true,
  comes_back: true,
  findings: [],
  proof: null,
  delivered: null,
  over: null,
  takes_place: false,
  begins_at: 0,
  one_to_one: false,
  waits_for: null,
  bypassed: false,
  reason: "",
  ...more,
});

export const splitStep = (more: Partial<Step> = {}): Step => ({
  ...mergeStep(),
  id: "s",
  turn: { kind: "split", endings: ["_L", "_R"], parts: [] },
  verb: "split",
  sentence: "Each channel of sea becomes a mono file.",
  inputs: ["source:sea"],
  outputs: [clip("sea_L", 1, { ref: "step:s:0" }), clip("sea_R", 1, { ref: "step:s:1" })],
  carries: [[["sea 1"]], [["sea 2"]]],
  ...more,
});

export const job = (steps: Step[], more: Partial<Job> = {}): Job => ({
  id: "j",
  name: "Lamp",
  head: "r",
  can_undo: false,
  can_redo: false,
  sources: [source("bell_L"), source("bell_R"), source("sea", 2)],
  groups: [],
  unclear: [],
  steps,
  preparation: { safe: [], questions: [], untouched: [] },
  ends: steps.flatMap((step) => step.outputs.map((one) => one.ref)),
  problem: null,
  ...more,
});

/** Turns as the core hands them out. */
export const DEFAULTS = {
  split: { kind: "split", endings: ["_L", "_R"], parts: [] },
  merge: { kind: "merge", order: "by-name", line_up: "recorded", length: "pad", layout: "auto" },
  swap: { kind: "swap" },
  polarity: { kind: "polarity", channels: "right" },
  encode: { kind: "encode", scale: "half" },
  decode: { kind: "decode", scale: "half", side_db: 0, exchange: false, flip_side: false },
  width: { kind: "width", width: 1.4 },
  fold: { kind: "fold", take: "sum", law: "average", blend: 0.5, flip_right: false, delay: 0 },
  matrix: { kind: "matrix", ll: 1, lr: 0, rl: 0, rr: 1 },
  sum: { kind: "sum", gains_db: [], flip: [] },
  dc: { kind: "dc", offset: [0] },
  level: { kind: "level", gains_db: [0], hush: [] },
  align: { kind: "align", delay: [0, 0] },
  trim: { kind: "trim", start: 0, end: "end", time: "file" },
  resample: { kind: "resample", rate: 48_000 },
  centre: {
    kind: "centre",
    keep: "both",
    method: "wedge",
    version: 3,
    replaces: "",
    low_hz: null,
    high_hz: null,
    lows: "both",
    position: 0,
    opening: 1,
    strength: 1.5,
    depth: 1,
    protect_drums: false,
  },
} satisfies { [K in Kind]: Of<K> };
