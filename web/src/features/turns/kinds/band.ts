import type { Of } from "../../../api/turns";

/** Lines and handles that are drawn from here to there: at their ends nothing limits the band. */
export const LOWEST = 40;
export const HIGHEST = 18_000;
export const lowHz = (hertz: number) => (hertz <= LOWEST + 0.5 ? 0 : Math.round(hertz));
export const highHz = (hertz: number) => (hertz >= HIGHEST - 50 ? ("max" as const) : Math.round(hertz));

/** The band in hertz that a centre turn works in; 0 and infinity where nothing limits it. */
export function bandOf({ method, low_hz, high_hz }: Of<"centre">): { low: number; high: number } {
  const wedge = method === "wedge";
  return {
    low: low_hz ?? (wedge ? 180 : 0),
    high:
      high_hz === "max" ? Number.POSITIVE_INFINITY : (high_hz ?? (wedge ? 10_000 : Number.POSITIVE_INFINITY)),
  };
}
