/** Every turn with the settings it starts from: the defaults of the core. */
import type { Step, Turn } from "./client";

type Of<K extends Turn["kind"]> = Extract<Turn, { kind: K }>;

export const DEFAULTS: { [K in Turn["kind"]]: Of<K> } = {
  split: { kind: "split", endings: ["_L", "_R"] },
  merge: { kind: "merge", order: "by-name", line_up: "recorded", length: "pad", layout: "auto" },
  swap: { kind: "swap" },
  polarity: { kind: "polarity", channels: "right" },
  encode: { kind: "encode", scale: "half" },
  decode: { kind: "decode", scale: "half", side_db: 0, exchange: false, flip_side: false },
  width: { kind: "width", width: 1.4 },
  fold: { kind: "fold", take: "sum", law: "average", blend: 0.5 },
  matrix: { kind: "matrix", ll: 1, lr: 0, rl: 0, rr: 1 },
  sum: { kind: "sum", gains_db: [], flip: [] },
  level: { kind: "level", gains_db: [0] },
  align: { kind: "align", delay: [0, 0] },
  centre: {
    kind: "centre",
    keep: "both",
    method: "wedge",
    low_hz: null,
    high_hz: null,
    lows: "both",
    position: 0,
    opening: 1,
    strength: 1.5,
    depth: 1,
    protect_drums: false,
  },
};

/** Whether a split's two channels are mid and side: its results are then called so. */
export const splitsMidSide = ({ turn, outputs: [first, second] }: Step) =>
  turn.kind === "split" && first?.name.endsWith("_mid") === true && second?.name.endsWith("_side") === true;
