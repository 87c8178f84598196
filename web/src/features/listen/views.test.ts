import { expect, it } from "vitest";
import { columns, fromAxis, noteOf, toAxis } from "./views";

it("names notes and cents", () => {
  expect(noteOf(440)).toBe("A4 +0");
  expect(noteOf(261.63)).toBe("C4 +0");
  expect(noteOf(452)).toBe("A4 +47");
  expect(noteOf(27.5)).toBe("A0 +0");
});

it("places frequencies by their logarithm, and back", () => {
  expect(toAxis(20, 48_000)).toBe(0);
  expect(toAxis(24_000, 48_000)).toBe(1);
  expect(fromAxis(toAxis(997, 44_100), 44_100)).toBeCloseTo(997);
});

it("keeps every peak of a spectrum, however narrow the picture", () => {
  const levels = new Array(8193).fill(-120);
  levels[3000] = -6;
  const shown = columns(levels, 48_000 / 16_384, 48_000, 200);
  expect(Math.max(...shown)).toBe(-6);
  expect([...shown].every(Number.isFinite)).toBe(true);
});
