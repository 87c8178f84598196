import type { Of } from "../../../api/turns";

/** The band in hertz that a centre turn works in; 0 and infinity where nothing limits it. */
export function bandOf({ method, low_hz, high_hz }: Of<"centre">): { low: number; high: number } {
  const wedge = method !== "difference";
  return {
    low: low_hz ?? (wedge ? 180 : 0),
    high:
      high_hz === "max" ? Number.POSITIVE_INFINITY : (high_hz ?? (wedge ? 10_000 : Number.POSITIVE_INFINITY)),
  };
}
