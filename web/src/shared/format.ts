/** Figures and dates as people read them. */

const LOCALE = "en-GB";

/** 26 November 2026, or the parts that are asked for. */
export const date = (
  when: string | Date,
  parts: Intl.DateTimeFormatOptions = { day: "numeric", month: "long", year: "numeric" },
) => new Date(when).toLocaleDateString(LOCALE, parts);

/** 26 Nov 2026, 13:05 */
export const dateTime = (when: string | Date) =>
  new Date(when).toLocaleString(LOCALE, { dateStyle: "medium", timeStyle: "short" });

/** 74.25 s as 1:14.250; hours only where there are any. */
export function clock(seconds: number, decimals = 3): string {
  const whole = Number(Math.max(0, seconds).toFixed(decimals));
  const hours = Math.floor(whole / 3600);
  const minutes = Math.floor((whole % 3600) / 60);
  const rest = (whole % 60).toFixed(decimals).padStart(decimals ? decimals + 3 : 2, "0");
  return hours ? `${hours}:${String(minutes).padStart(2, "0")}:${rest}` : `${minutes}:${rest}`;
}

/** A length: whole seconds, or hundredths where that would say too little. */
export const duration = (frames: number, rate: number) =>
  frames / rate < 9.995 ? `${(frames / rate).toFixed(2)} s` : clock(Math.round(frames / rate), 0);

/** The sample rates of some clips, each once, the lowest first. */
export const ratesOf = (clips: readonly { rate: number }[]) =>
  [...new Set(clips.map((clip) => clip.rate))].sort((one, other) => one - other);
export const kilohertz = (rate: number) => `${rate / 1000} kHz`;

export const depth = (name: string) =>
  /^\d+$/.test(name) ? `${name}-bit` : `${name === "double" ? 64 : 32}-bit float`;

/** How a file stores its samples: its depth, or its format where that keeps no depth. */
export const stored = (clip: { lossy: boolean; container: string; depth: string }) =>
  clip.lossy ? clip.container : depth(clip.depth);

export const layout = (channels: number) =>
  channels === 1 ? "mono" : channels === 2 ? "stereo" : `${channels} channels`;

export function bytes(size: number): string {
  if (size < 1000) return `${size} B`;
  const units = ["kB", "MB", "GB", "TB"];
  const power = Math.min(units.length, Math.floor(Math.log10(size) / 3));
  return `${(size / 1000 ** power).toFixed(size / 1000 ** power < 10 ? 1 : 0)} ${units[power - 1]}`;
}

/** −12.3 dBFS; a dash where there is nothing to measure. */
export const decibels = (value: number | null | undefined, unit = "dB", places = 1) =>
  value === null || value === undefined ? "–" : `${signed(value, places)} ${unit}`;

/** With a true minus sign, which zero has none of. */
export const signed = (value: number, places = 1) =>
  (Number(value.toFixed(places)) + 0).toFixed(places).replace("-", "−");

/** With its sign, plus too: +6.0, −3.0, 0.0. */
const plus = (value: number, places: number) =>
  `${Number(value.toFixed(places)) > 0 ? "+" : ""}${signed(value, places)}`;

/** A gain or a difference of levels: +6.0 dB, −3.0 dB; a dash where there is none. */
export const gainText = (db: number | null | undefined, unit = " dB") =>
  db === null || db === undefined ? "–" : `${plus(db, 1)}${unit}`;

export const count = (n: number, one: string, many = `${one}s`) =>
  `${n.toLocaleString(LOCALE)} ${n === 1 ? one : many}`;

/** A pan position between −1, left, and 1, right: C, L20. */
export const panned = (position: number) =>
  position === 0 ? "C" : `${position < 0 ? "L" : "R"}${Math.round(100 * Math.abs(position))}`;

/** What was typed for one: C, L20, R 20; null where it is none. */
export function readPan(text: string): number | null {
  const [, side = "", percent] = /^\s*([clr])\D*(\d+)?/i.exec(text) ?? [];
  if (/c/i.test(side)) return 0;
  return percent === undefined ? null : (/l/i.test(side) ? -1 : 1) * (Number(percent) / 100);
}

/** +0.98, −0.73; a dash where there is none. */
export const correlation = (value: number | null | undefined) =>
  value === null || value === undefined ? "–" : plus(value, 2);
