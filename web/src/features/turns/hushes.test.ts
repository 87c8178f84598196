import { expect, it } from "vitest";
import { added, depthIn, depthText, type Hush, hushText, inTime, moved, spanOf, split } from "./hushes";

const RATE = 48_000;
const hush = (start: Hush["start"], end: Hush["end"], part: Partial<Hush> = {}): Hush => ({
  channel: 1,
  start,
  end,
  gain_db: "mute",
  fade_ms: 10,
  ...part,
});

it("reads places in seconds and in samples", () => {
  expect(spanOf(hush(1.5, "96000s"), RATE)).toEqual([72_000, 96_000]);
});

it("lists them in the order of time, whatever order they were drawn in", () => {
  const hushes = [hush(3, 4), hush("48000s", 2), hush(1, 2, { channel: 2 })];
  expect(inTime(hushes, RATE)).toEqual([1, 2, 0]);
});

it("draws a new one as deep as the last, with its fades", () => {
  expect(added([], 2, [10.4, 20])).toEqual([hush("10s", "20s", { channel: 2 })]);
  const [, second] = added([hush(0, 1, { gain_db: -12, fade_ms: 30 })], 1, [100, 200]);
  expect(second).toEqual(hush("100s", "200s", { gain_db: -12, fade_ms: 30 }));
});

it("moves one and leaves the others", () => {
  const [first, second] = moved([hush(0, 1), hush(2, 3)], 1, [5, 9]);
  expect(first).toEqual(hush(0, 1));
  expect(second).toEqual(hush("5s", "9s"));
});

it("splits one at a frame inside it, and nowhere else", () => {
  expect(split([hush("0s", "100s")], 0, 40, RATE)).toEqual([hush("0s", "40s"), hush("40s", "100s")]);
  expect(split([hush("0s", "100s")], 0, 100, RATE)).toBeNull();
  expect(split([hush("0s", "100s")], 0, 0, RATE)).toBeNull();
});

it.each([
  ["mute", "mute"],
  ["-inf", "mute"],
  ["−12 dB", -12],
  ["6", -6],
  ["0", 0],
  ["-200", null],
  ["loud", null],
])("reads %s as a level", (typed, level) => {
  expect(depthIn(typed)).toBe(level);
});

it("says what it is", () => {
  expect(depthText("mute")).toBe("mute");
  expect(hushText(hush(61.5, 63, { gain_db: -12 }), "left", RATE)).toBe("left, 1:01.500 to 1:03.000, −12 dB");
});
