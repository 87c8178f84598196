/** Lengths of fades in milliseconds, typed and stepped. */
import { LIMITS } from "../../api/limits.gen";
import { numberIn } from "../../shared/places";

const FADES = LIMITS.over.fade_ms;

/** What was typed as the length of a fade in milliseconds; null where it is none. */
export function fadeIn(typed: string): number | null {
  const fade = numberIn(typed);
  return fade !== null && fade >= FADES.least && fade <= FADES.most ? fade : null;
}

/** A fade by a millisecond, or by ten, shorter or longer. */
export const stepFade = (fade: number, by: 1 | -1, large: boolean) =>
  Math.max(FADES.least, Math.min(FADES.most, fade + by * (large ? 10 : 1)));
