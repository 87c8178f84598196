/** The stretch of time that is shown, and how zooming and panning move it. All in frames. */

/** Frames [from, to). */
export type Range = readonly [number, number];

export type Viewport = {
  /** The frame at the left edge. */
  start: number;
  /** Frames in one pixel of the page. */
  scale: number;
};

/** Two samples may be this many pixels apart at the closest zoom. */
const CLOSEST = 1 / 24;

export const showAll = (frames: number, width: number): Viewport => ({
  start: 0,
  scale: Math.max(CLOSEST, frames / Math.max(1, width)),
});

export const showRange = ([from, to]: readonly [number, number], width: number): Viewport => ({
  start: from,
  scale: Math.max(CLOSEST, (to - from) / Math.max(1, width)),
});

function within(viewport: Viewport, frames: number, width: number): Viewport {
  const scale = Math.min(Math.max(viewport.scale, CLOSEST), showAll(frames, width).scale);
  const start = Math.min(Math.max(0, viewport.start), Math.max(0, frames - scale * width));
  return { start, scale };
}

/** Zoom by a factor (above 1 is closer) so that the frame under pixel `x` stays there. */
export function zoom(viewport: Viewport, factor: number, x: number, frames: number, width: number): Viewport {
  const scale = Math.min(Math.max(viewport.scale / factor, CLOSEST), showAll(frames, width).scale);
  return within({ scale, start: viewport.start + x * (viewport.scale - scale) }, frames, width);
}

export const pan = (viewport: Viewport, pixels: number, frames: number, width: number): Viewport =>
  within({ ...viewport, start: viewport.start + pixels * viewport.scale }, frames, width);

/** The largest power of two of frames that is no more than a pixel of the screen. */
export const binFor = (scale: number, ratio: number): number =>
  2 ** Math.max(0, Math.floor(Math.log2(Math.max(1, scale / ratio))));

/** Steps of a time axis: the smallest of 1, 2, 5 × 10^n seconds that leaves room for its numbers. */
export function tickStep(secondsPerPixel: number, room = 90): number {
  const least = secondsPerPixel * room;
  const power = 10 ** Math.floor(Math.log10(least));
  return power * ([1, 2, 5, 10].find((n) => n * power >= least) ?? 10);
}

/** Decimals of numbers that are whole multiples of a step. */
export const decimalsOf = (step: number) => Math.max(0, Math.ceil(-Math.log10(step) - 1e-9));

/** A viewport that shows no more than there is. */
export const fitted = within;

/** The same stretch of time on an axis of another width; all of it where all was shown. */
export function resized(viewport: Viewport, before: number, width: number, frames: number): Viewport {
  const wasAll = viewport.scale >= showAll(frames, before).scale;
  return wasAll
    ? showAll(frames, width)
    : within({ ...viewport, scale: (viewport.scale * before) / width }, frames, width);
}
