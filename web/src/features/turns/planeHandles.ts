/**
 * What can be dragged in the plane of a turn: a tip, the mid line, the opening. Points are in the plane of the picture,
 * x to the right and y down, where a channel at full level reaches 1.
 */
import { LIMITS } from "../../api/limits.gen";
import type { Of } from "../../api/turns";
import { gainText, signed } from "../../shared/format";

export type Point = { x: number; y: number };
/** One handle: where it is, what it says, and the turn after it is moved to a point, or stepped by keys. */
export type PlaneHandle<T> = {
  label: string;
  at: Point;
  text: string;
  moved: (to: Point) => T;
  /** By small steps: 1 is up or right, −1 down or left. */
  stepped: (by: number) => T;
};

const H = Math.SQRT1_2;
export const LEFT = { x: -H, y: -H };
export const RIGHT = { x: H, y: -H };
const dot = (one: Point, other: Point) => one.x * other.x + one.y * other.y;
const along = ({ x, y }: Point, by: number) => ({ x: x * by, y: y * by });
const sum = (one: Point, other: Point) => ({ x: one.x + other.x, y: one.y + other.y });
const clamp = (value: number, low: number, high: number) => Math.max(low, Math.min(high, value));
const within = (value: number, { least, most }: { least: number; most: number }) => clamp(value, least, most);
const rounded = (value: number, step: number) => Number((Math.round(value / step) * step).toFixed(6));
const gain = (db: number) => 10 ** (db / 20);
const decibelsOf = (amount: number) => 20 * Math.log10(Math.max(amount, 1e-6));

/** Both tips of a free mix: each says how much of its channel goes left and right. */
export function matrixHandles(turn: Of<"matrix">): PlaneHandle<Of<"matrix">>[] {
  const tip = (label: string, toLeft: "ll" | "lr", toRight: "rl" | "rr") => {
    const at = sum(along(LEFT, turn[toLeft]), along(RIGHT, turn[toRight]));
    const moved = (to: Point) => ({
      ...turn,
      [toLeft]: rounded(within(dot(to, LEFT), LIMITS.matrix[toLeft]), 0.01),
      [toRight]: rounded(within(dot(to, RIGHT), LIMITS.matrix[toRight]), 0.01),
    });
    return {
      label,
      at,
      text: `${signed(100 * turn[toLeft], 0)} % left, ${signed(100 * turn[toRight], 0)} % right`,
      moved,
      stepped: (by: number) => moved(sum(at, { x: 0.02 * by, y: 0 })),
    };
  };
  return [tip("Left", "ll", "rl"), tip("Right", "lr", "rr")];
}

/** Gains that one drags to, by hand or by slider; others are typed. */
export const GAINS_DB = [-30, 30] as const;

/** The length of each arrow is the gain of its channel; one gain for both moves both. */
export function levelHandles(turn: Of<"level">): PlaneHandle<Of<"level">>[] {
  const together = turn.gains_db.length === 1;
  const set = (n: number, db: number) => {
    const value = rounded(clamp(db, ...GAINS_DB), 0.1);
    return { ...turn, gains_db: turn.gains_db.map((old, m) => (together || m === n ? value : old)) };
  };
  return [LEFT, RIGHT].map((axis, n) => {
    const db = turn.gains_db[together ? 0 : n] ?? 0;
    return {
      label: together ? `Level, ${n ? "right" : "left"}` : n ? "Level of right" : "Level of left",
      at: along(axis, gain(db)),
      text: gainText(db),
      moved: (to) => set(n, decibelsOf(dot(to, axis))),
      stepped: (by) => set(n, db + 0.5 * by),
    };
  });
}

/** A tip that is pulled through the middle inverts its channel. */
export function polarityHandles(turn: Of<"polarity">): PlaneHandle<Of<"polarity">>[] {
  const { channels } = turn;
  const listed = typeof channels === "string" ? [] : channels;
  const inverted = [LEFT, RIGHT].map(
    (_, n) => channels === "both" || channels === (n ? "right" : "left") || listed.includes(n + 1),
  );
  const set = (n: number, on: boolean) => {
    const [left, right] = inverted.map((old, m) => (m === n ? on : old));
    // One channel at the least stays inverted: a polarity turn that does nothing is none.
    if (!left && !right) return turn;
    return {
      ...turn,
      channels: left && right ? ("both" as const) : left ? ("left" as const) : ("right" as const),
    };
  };
  return [LEFT, RIGHT].map((axis, n) => ({
    label: n ? "Polarity of right" : "Polarity of left",
    at: along(axis, inverted[n] ? -1 : 1),
    text: inverted[n] ? "inverted" : "as it is",
    moved: (to) => set(n, dot(to, axis) < 0),
    stepped: (by) => set(n, by < 0),
  }));
}

/** The line from the pivot between left and right: how much of each goes into the blend. */
export function foldHandles(turn: Of<"fold">): PlaneHandle<Of<"fold">>[] {
  if (turn.take !== "blend") return [];
  const set = (blend: number) => ({ ...turn, blend: rounded(within(blend, LIMITS.fold.blend), 0.01) });
  const angle = ((turn.blend - 0.5) * Math.PI) / 2;
  return [
    {
      label: "Blend of left and right",
      at: { x: Math.sin(angle), y: -Math.cos(angle) },
      text: `${Math.round(100 - 100 * turn.blend)} : ${Math.round(100 * turn.blend)}`,
      moved: ({ x, y }) => set(Math.atan2(x, -y) / (Math.PI / 2) + 0.5),
      stepped: (by) => set(turn.blend + 0.01 * by),
    },
  ];
}

/** Below the lowest level of a side there is none. */
export const OFF = LIMITS.decode.side_db.least - 0.5;
export const sideLevel = (db: number) =>
  db < LIMITS.decode.side_db.least ? ("off" as const) : Math.min(db, LIMITS.decode.side_db.most);

/** Both tips open and close the fan: out of the mid line by the width. */
export function widthHandles(turn: Of<"width">): PlaneHandle<Of<"width">>[] {
  const set = (width: number) => ({ ...turn, width: rounded(within(width, LIMITS.width.width), 0.01) });
  return [-1, 1].map((sign) => ({
    label: sign < 0 ? "Width, left" : "Width, right",
    at: { x: sign * H * turn.width, y: -H },
    text: `× ${turn.width.toFixed(2)}`,
    moved: ({ x }) => set((sign * x) / H),
    stepped: (by) => set(turn.width + 0.02 * by * sign),
  }));
}

/** The length of the side's arrow is its level. */
export function decodeHandles(turn: Of<"decode">): PlaneHandle<Of<"decode">>[] {
  // Left gets the side as it is and right inverted: the arrow points left, or right where the side is inverted.
  const unit = Math.SQRT2 * (turn.scale === "half" ? 1 : H);
  const sign = turn.flip_side ? 1 : -1;
  const level = turn.side_db === "off" ? 0 : gain(turn.side_db);
  const set = (db: number) => ({
    ...turn,
    side_db: sideLevel(rounded(db, 0.1)),
  });
  return [
    {
      label: "Side level",
      at: { x: sign * unit * level, y: 0 },
      text: turn.side_db === "off" ? "off" : gainText(turn.side_db),
      moved: ({ x }) => set(decibelsOf((sign * x) / unit)),
      stepped: (by) => set((turn.side_db === "off" ? OFF : turn.side_db) + 0.5 * by * sign),
    },
  ];
}
