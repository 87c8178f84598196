/** Places in time as turns have them: seconds, samples as `480s`, time code, or the end. */
import { clock } from "./format";
import { isTimeCode, parseTimeCode, type Timed } from "./timeCode";

export type Place = number | string;
type AtRate = { rate: number };

/** Frames at a rate, of a clip that was recorded from `startTime` on, in frames since midnight. */
export type SelectedRange = { start: number; end: number; rate: number; startTime: number | null };

/** Frames of a clip that has so many. */
export function framesOf(place: Place, clip: Timed & { frames: number }): number {
  if (place === "end") return clip.frames;
  if (typeof place === "string" && !isTimeCode(place)) return Number.parseInt(place, 10);
  const seconds = typeof place === "number" ? place : parseTimeCode(place, clip);
  return typeof seconds === "number" ? Math.round(seconds * clip.rate) : Number.NaN;
}

/** As it is shown: in thousandths of a second where they say it to the sample, else in millionths, which always do. */
export function placeText(place: Place, rate: number): string {
  if (place === "end" || (typeof place === "string" && isTimeCode(place))) return place;
  const frame = framesOf(place, { rate, frames: 0 });
  const text = clock(frame / rate);
  const read = placeIn(text);
  return typeof read === "number" && Math.round(read * rate) === frame ? text : clock(frame / rate, 6);
}

/**
 * What was typed: `1:02.5`, `62.5`, `480s`, `end`, or the time code of a clip, in seconds from its start or from midnight;
 * null where it is none of them.
 */
export function placeIn(typed: string, clip: Timed | null = null, ofDay = false): Place | null {
  const text = typed.trim().toLowerCase().replace(",", ".");
  const timeCode = clip && parseTimeCode(text, clip, ofDay);
  if (typeof timeCode === "number") return timeCode;
  if (text === "end" || /^\d{1,15}s$/.test(text)) return text;
  const parts = /^(?:(?:(\d+):)?(\d+):)?(\d+(?:\.\d*)?)$/.exec(text);
  if (!parts) return null;
  const [, hours, minutes = "", seconds = "0"] = parts;
  // Behind hours there are at most 59 minutes, behind minutes at most 59 seconds.
  if ((hours && Number(minutes) >= 60) || (minutes && Number(seconds) >= 60)) return null;
  return 3600 * Number(hours ?? 0) + 60 * Number(minutes) + Number(seconds);
}

/** What was typed as a number, with a point or a comma; null where it is none. */
export function numberIn(typed: string): number | null {
  const text = typed.trim().replace("−", "-").replace(",", ".");
  return /^[+-]?\d+(\.\d*)?$/.test(text) ? Number(text) : null;
}

/** Why a text is no time. */
export function noTime(text: string, clip: Timed | null = null, ofDay = false): string {
  const why = clip && parseTimeCode(text.trim(), clip, ofDay);
  if (typeof why === "string") return why;
  return `“${text.trim()}” is not a time. Enter 1:02.500, 62.5, samples as 480s, or time code.`;
}

/** A selected range in a clip: to the sample where their rates are the same. */
export const placesOf = ({ start, end, rate }: SelectedRange, clip: AtRate) => {
  const place = (frame: number) => (clip.rate === rate ? `${Math.round(frame)}s` : frame / rate);
  return { start: place(start), end: place(end) };
};

/** How long a turn over a range fades in and out of it, in milliseconds, unless that is set. */
export const RANGE_FADE_MS = 10;

/** A selected range as a trim of a clip. */
export const trimTo = (range: SelectedRange, clip: AtRate) => ({
  kind: "trim" as const,
  ...placesOf(range, clip),
});

/** What start and end are counted from: the start of the file, or midnight, as it was recorded. */
export type TimeOf = "file" | "recorded";
export const TIMES = [
  ["file", "From the start of the file"],
  ["recorded", "Time of day"],
] as const;
type InTime = { start: Place; end: Place; time: TimeOf };

/** The same range counted from the other, in seconds, for a clip whose start time is known. */
export function inTime<R extends InTime>(range: R, time: TimeOf, clip: AtRate & { startTime: number }): R {
  if (range.time === time) return range;
  const by = (time === "recorded" ? clip.startTime : -clip.startTime) / clip.rate;
  const moved = (place: Place) =>
    place === "end" ? place : Math.max(0, framesOf(place, { ...clip, frames: 0 }) / clip.rate + by);
  return { ...range, time, start: moved(range.start), end: moved(range.end) };
}
