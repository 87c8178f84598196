/** Every colour, for the light and the dark theme. Night on a snow slope; a light theme by day. */

/** A colour by day and by night. */
export type Pair = { readonly light: string; readonly dark: string };

const pair = (light: string, dark: string): Pair => ({ light, dark });

/** What text and pictures stand on. */
export const GROUNDS = {
  ground: pair("#f6f8fb", "#0a1120"),
  raised: pair("#ffffff", "#101a2d"),
  high: pair("#e6ecf4", "#17233a"),
} as const;

/** Channels, and nothing else. */
export const CHANNELS = {
  left: pair("#8f5200", "#ffb547"),
  right: pair("#005f8f", "#6ad0ff"),
  mid: pair("#0d1728", "#f3f7fc"),
  side: pair("#6a3ab8", "#b794ff"),
} as const;

/** What text says by its colour. */
export const MEANINGS = {
  fg: pair("#0d1728", "#f3f7fc"),
  quiet: pair("#4a5d78", "#9db0c8"),
  /** Where the keys are, what is chosen, how far something is. */
  accent: pair("#2450c8", "#8fabff"),
  /** What failed, and what deletes. */
  danger: pair("#b81c36", "#ff8088"),
  /** Findings to look at. */
  warning: pair("#6b5b00", "#efe07a"),
  /** Proved. */
  ok: pair("#0a6b42", "#6fe3ad"),
  /** Correlation below zero. */
  negative: pair("#b3246b", "#ff86bd"),
} as const;

/** Borders: of what can be used, and lines that only set apart. */
export const BORDERS = {
  control: pair("#6f819b", "#62789a"),
  line: pair("#cfd9e6", "#22304a"),
} as const;

/** How strongly peaks are drawn beside the level inside them. */
export const PEAK_ALPHA = 0.7;
