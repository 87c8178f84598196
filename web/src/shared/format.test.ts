import { expect, it } from "vitest";
import { bytes, clock, count, decibels, depth, duration, gainText, signed } from "./format";

it("writes times, sizes and counts as people read them", () => {
  expect(clock(74.25)).toBe("1:14.250");
  expect(clock(70_930, 0)).toBe("19:42:10");
  expect(clock(-1, 1)).toBe("0:00.0");
  expect([clock(59.9996), clock(3_599.96, 1)]).toEqual(["1:00.000", "1:00:00.0"]);
  expect([duration(48_000 * 61, 48_000), duration(73_473, 48_000)]).toEqual(["1:01", "1.53 s"]);
  expect([bytes(999), bytes(5_760_654), bytes(12_000_000_000)]).toEqual(["999 B", "5.8 MB", "12 GB"]);
  expect([count(1, "file"), count(1_200, "file")]).toEqual(["1 file", "1,200 files"]);
  expect([depth("24"), depth("float"), depth("double")]).toEqual(["24-bit", "32-bit float", "64-bit float"]);
});

it("writes levels with their sign, and zero without one", () => {
  expect([signed(-0.04), signed(-0.06), signed(2, 0)]).toEqual(["0.0", "−0.1", "2"]);
  expect([decibels(-12.34, "dBFS"), decibels(-0.001), decibels(null)]).toEqual(["−12.3 dBFS", "0.0 dB", "–"]);
});

it("writes gains and differences with a plus too", () => {
  expect([gainText(6), gainText(-3.04), gainText(0.04), gainText(null)]).toEqual([
    "+6.0 dB",
    "−3.0 dB",
    "0.0 dB",
    "–",
  ]);
});
