import { expect, it } from "vitest";
import { framesOf, placeIn } from "./places";
import { parseTimeCode } from "./timeCode";

const HOUR = 3600 * 48_000;
const clip = (frame_rate: string | null, start_time: number | null = 0) => ({
  rate: 48_000,
  start_time,
  frame_rate,
});
const samples = (code: string, of: Parameters<typeof parseTimeCode>[1]) =>
  Math.round(48_000 * Number(parseTimeCode(code, of)));

// Counts of SMPTE ST 12-1, from memory: an hour of drop-frame has 107,892 frames, ten minutes have 17,982.
it.each([
  ["01:00:00:12", clip("25", HOUR), 12 * 1920],
  ["01:00:00:12@24", clip("25", HOUR), 12 * 2000],
  ["01:00:00:12@25", clip(null, HOUR), 12 * 1920],
  ["00:10:00;00", clip("29.97"), Math.round(17_982 * 1601.6)],
  ["01:00:00;00", clip("29.97 drop-frame"), Math.round(107_892 * 1601.6)],
  ["01:00:00:00", clip("29.97 drop-frame"), Math.round(107_892 * 1601.6)],
  ["01:00:00:00", clip("29.97"), Math.round(108_000 * 1601.6)],
  ["00:01:00;02@29.97", clip(null), Math.round(1800 * 1601.6)],
  ["00:00:01:00", clip("23.976"), 24 * 2002],
  ["00:00:01:00", clip("25", 86_399 * 48_000), 2 * 48_000],
])("reads %s", (code, of, sample) => expect(samples(code, of)).toBe(sample));

it("counts from midnight where times are those of the day", () => {
  expect(parseTimeCode("10:00:00:12", clip("25", null), true)).toBe(36_000.48);
  expect(placeIn("10:00:00:12", clip("25", null), true)).toBe(36_000.48);
});

it.each([
  ["01:00:00:12", clip(null), /frame rate isn't known/],
  ["01:00:00:12", clip("25", null), /doesn't say when it was recorded/],
  ["01:00:00:25", clip("25"), /is not a time code at 25/],
  ["00:01:00;01", clip("29.97"), /is not a time code at 29.97/],
  ["01:00:00:00", clip("25", HOUR + 48_000), /lies before the start/],
])("says why %s is no place", (code, of, why) => {
  expect(parseTimeCode(code, of)).toMatch(why);
  expect(placeIn(code, of)).toBeNull();
});

it("takes no time code where there is nothing to read it by", () => {
  expect(parseTimeCode("01:00:00:12", { rate: 48_000 })).toBeNull();
  expect(framesOf("01:00:00:12", { rate: 48_000, frames: 0 })).toBeNaN();
  expect(framesOf("01:00:00:12", { ...clip("25", HOUR), frames: 0 })).toBe(12 * 1920);
});
