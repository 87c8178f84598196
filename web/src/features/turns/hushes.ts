/** Hushes of a level turn: stretches of time in which one channel is lowered or muted. */
import type { Of } from "../../api/turns";
import { clock, signed } from "../../shared/format";
import { framesOf } from "../../shared/places";

export type Hush = Of<"level">["hush"][number];
/** Its first frame, and the first after it. */
export type Span = readonly [start: number, end: number];

const FADE_MS = 10;
const frameAt = (place: Hush["start"], rate: number) => framesOf(place, { rate, frames: 0 });
const place = (frame: number) => `${Math.max(0, Math.round(frame))}s`;

export const spanOf = ({ start, end }: Hush, rate: number): Span => [
  frameAt(start, rate),
  frameAt(end, rate),
];

/** The numbers of the hushes in the order of time, and of the channels where they start together. */
export const inTime = (hushes: readonly Hush[], rate: number): number[] =>
  hushes
    .map((hush, n) => ({ n, at: frameAt(hush.start, rate), channel: hush.channel }))
    .sort((a, b) => a.at - b.at || a.channel - b.channel)
    .map(({ n }) => n);

/** A new hush at the end of the list, as deep as the last one and with its fades. */
export function added(hushes: readonly Hush[], channel: number, [start, end]: Span): Hush[] {
  const { gain_db = "mute" as const, fade_ms = FADE_MS } = hushes.at(-1) ?? {};
  return [...hushes, { channel, start: place(start), end: place(end), gain_db, fade_ms }];
}

/** Whether no hush of a channel meets a span. */
export const isFree = (hushes: readonly Hush[], channel: number, [start, end]: Span, rate: number) =>
  !hushes.some((hush) => {
    const [from, to] = spanOf(hush, rate);
    return hush.channel === channel && from < end && to > start;
  });

/** How deep suggested hushes are where none is there to go by: a mute would be heard as a hole. */
const SUGGESTED_DB = -12;

/** All of these as well. */
export const taken = (hushes: readonly Hush[], more: readonly { channel: number; span: Span }[]): Hush[] =>
  more.reduce<Hush[]>(
    (all, { channel, span }) => {
      const next = added(all, channel, span);
      return hushes.length ? next : next.map((hush) => ({ ...hush, gain_db: SUGGESTED_DB }));
    },
    [...hushes],
  );

export const replaced = (hushes: readonly Hush[], at: number, change: Partial<Hush>): Hush[] =>
  hushes.map((hush, n) => (n === at ? { ...hush, ...change } : hush));

export const moved = (hushes: readonly Hush[], at: number, [start, end]: Span): Hush[] =>
  replaced(hushes, at, { start: place(start), end: place(end) });

export const removed = (hushes: readonly Hush[], at: number): Hush[] => hushes.filter((_, n) => n !== at);

/** Two hushes instead of one, with nothing between them; null where the frame is not inside it. */
export function split(hushes: readonly Hush[], at: number, frame: number, rate: number): Hush[] | null {
  const hush = hushes[at];
  if (!hush) return null;
  const [start, end] = spanOf(hush, rate);
  const middle = Math.round(frame);
  if (middle <= start || middle >= end) return null;
  return [...replaced(hushes, at, { end: place(middle) }), { ...hush, start: place(middle) }];
}

/** How deep it is, as it is shown. */
export const depthText = (gain: Hush["gain_db"]) =>
  gain === "mute" ? "mute" : `${signed(gain, Number.isInteger(gain) ? 0 : 1)} dB`;

/** What was typed for it: `mute`, `-inf`, or decibels of 0 and less; null where it is none of them. */
export function depthIn(typed: string): Hush["gain_db"] | null {
  const text = typed
    .trim()
    .toLowerCase()
    .replace("−", "-")
    .replace(/\s*db$/, "")
    .replace(",", ".");
  if (text === "mute" || text === "-inf" || text === "-∞") return "mute";
  if (!/^[-+]?\d+(\.\d*)?$/.test(text)) return null;
  const value = -Math.abs(Number(text));
  return value >= -144 ? value + 0 : null;
}

/** As it is said, with the name of its channel. */
export const hushText = (hush: Hush, channel: string, rate: number) => {
  const [start, end] = spanOf(hush, rate);
  return `${channel}, ${clock(start / rate)} to ${clock(end / rate)}, ${depthText(hush.gain_db)}`;
};
