import { expect, it } from "vitest";
import { columns, logAxis, noteOf } from "./frequency";

it("names notes and cents", () => {
  expect(noteOf(440)).toBe("A4 +0");
  expect(noteOf(261.63)).toBe("C4 +0");
  expect(noteOf(452)).toBe("A4 +47");
  expect(noteOf(27.5)).toBe("A0 +0");
});

it("places frequencies by their logarithm, and back", () => {
  const axis = logAxis(48_000);
  expect([axis.to(20), axis.to(24_000), axis.to(1), axis.to(96_000)]).toEqual([0, 1, 0, 1]);
  expect(axis.from(axis.to(997))).toBeCloseTo(997);
  expect(logAxis(44_100, 40).from(0)).toBe(40);
});

it("keeps every peak of a spectrum, however narrow the picture", () => {
  const levels = new Array(8193).fill(-120);
  levels[3000] = -6;
  const shown = columns(levels, 48_000 / 16_384, logAxis(48_000), 200);
  expect(Math.max(...shown)).toBe(-6);
  expect([...shown].every(Number.isFinite)).toBe(true);
});
