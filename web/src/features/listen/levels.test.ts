import { expect, it } from "vitest";
import { FLOOR, Levels } from "./levels";

const stereo = (left: number, right: number) =>
  Float32Array.from({ length: 200 }, (_, n) => (n % 2 ? right : left));

it("shows nothing before anything has sounded", () => {
  const levels = new Levels();
  expect(levels.correlation).toBeNull();
  expect(levels.pass(30, 30)).toBe(false);
  expect(levels.ears.map((ear) => ear.shown)).toEqual([FLOOR, FLOOR]);
});

it("reads peaks in dBFS, holds the highest, and falls", () => {
  const levels = new Levels();
  levels.take(stereo(0.5, 0.25));
  expect(levels.pass(30, 30)).toBe(true);
  expect(levels.ears[0].shown).toBeCloseTo(-6.02, 2);
  expect(levels.ears[1].shown).toBeCloseTo(-12.04, 2);
  levels.pass(1_000, 1_030);
  expect(levels.ears[0].shown).toBeCloseTo(-26.02, 2);
  expect(levels.ears[0].held).toBeCloseTo(-6.02, 2);
});

it.each([
  ["alike", 0.5, 0.5, 1],
  ["inverted", 0.5, -0.5, -1],
])("reads the correlation of channels that are %s", (_, left, right, correlation) => {
  const levels = new Levels();
  levels.take(stereo(left, right));
  expect(levels.correlation).toBeCloseTo(correlation);
});

it("is at rest again after the sound, and says no correlation", () => {
  const levels = new Levels();
  levels.take(stereo(0.5, 0.5));
  const moved = Array.from({ length: 200 }, (_, n) => levels.pass(100, 100 * (n + 1)));
  expect(moved[0]).toBe(true);
  expect(moved.at(-1)).toBe(false);
  expect(levels.correlation).toBeNull();
});

it("keeps saying that it was over until that is cleared", () => {
  const levels = new Levels();
  levels.take(stereo(1, 1.01));
  levels.pass(30, 30);
  levels.pass(9_000, 9_030);
  expect(levels.ears.map((ear) => ear.over)).toEqual([false, true]);
  levels.clearOver();
  expect(levels.ears.map((ear) => ear.over)).toEqual([false, false]);
});
