import { expect, it } from "vitest";
import { framesOf, numberIn, placeIn, placeText, trimTo } from "./places";

it("reads places as people type them", () => {
  expect(placeIn("1:02.5")).toBe(62.5);
  expect(placeIn("62,5")).toBe(62.5);
  expect(placeIn("1:00:01")).toBe(3601);
  expect(placeIn("90:00")).toBe(5400);
  expect(placeIn(" 480s ")).toBe("480s");
  expect(placeIn("End")).toBe("end");
  for (const wrong of ["soon", "", "-3", "1:2:3:4", "s", "9:99", "1:60:00", "0:00:60"])
    expect(placeIn(wrong)).toBeNull();
});

it("shows a place as time where that says it to the sample", () => {
  expect(placeText(62.5, 48_000)).toBe("1:02.500");
  expect(placeText("48000s", 48_000)).toBe("0:01.000");
  expect(placeText("48001s", 48_000)).toBe("0:01.000021");
  for (const rate of [44_100, 192_000, 768_000])
    for (const frame of [1, 12_345, 768_001, 99_999_999]) {
      const read = placeIn(placeText(`${frame}s`, rate));
      expect(framesOf(read ?? 0, { rate, frames: 0 })).toBe(frame);
    }
  expect(placeText("end", 48_000)).toBe("end");
});

it("takes a selected range to the sample, and by time for files of another rate", () => {
  const range = { start: 480, end: 960, rate: 48_000, startTime: null };
  expect(trimTo(range, { rate: 48_000 })).toEqual({ kind: "trim", start: "480s", end: "960s" });
  expect(trimTo(range, { rate: 96_000 })).toEqual({ kind: "trim", start: 0.01, end: 0.02 });
  expect(framesOf("end", { rate: 48_000, frames: 7 })).toBe(7);
  expect(framesOf(0.5, { rate: 48_000, frames: 7 })).toBe(24_000);
});

it("reads numbers with a point or a comma", () => {
  expect([numberIn("2,5"), numberIn(" −3.25 "), numberIn("1e3")]).toEqual([2.5, -3.25, null]);
});
