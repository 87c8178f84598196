import { expect, it } from "vitest";
import type { Surface } from "../../shared/canvas";
import { COLUMNS, shadesOf } from "./mapPixels";

const COLORS = {
  ground: "#000000",
  left: "#ff0000",
  mid: "#ffffff",
  right: "#0000ff",
  accent: "#00ff00",
} as Surface["colors"];
const [LEFT, MIDDLE, RIGHT] = [0, (COLUMNS - 1) / 2, COLUMNS - 1];

/** One row of a map with these levels in dB at these directions, as `rrggbb`. */
function drawn(levels: Record<number, number>, after: Record<number, number> | null = null) {
  const row = (of: Record<number, number>) =>
    Float32Array.from({ length: COLUMNS }, (_, direction) => of[direction] ?? -120);
  const shades = shadesOf(row(levels), after && row(after), COLORS);
  return (direction: number) => {
    const [r = 0, g = 0, b = 0] = new Uint8Array(shades.buffer, 4 * direction, 4);
    return ((r << 16) | (g << 8) | b).toString(16).padStart(6, "0");
  };
}

it("draws each direction in its colour, the louder the brighter", () => {
  const color = drawn({ [LEFT]: -10, [MIDDLE]: -10, [RIGHT]: -10, 5: -30, 6: -50 });
  expect([LEFT, MIDDLE, RIGHT].map(color)).toEqual(["ff0000", "ffffff", "0000ff"]);
  const red = (direction: number) => Number.parseInt(color(direction).slice(0, 2), 16);
  expect(red(5)).toBeGreaterThan(red(6));
  expect(red(6)).toBeGreaterThan(0);
  expect(color(20)).toBe("000000");
});

it("tints what was taken, as much of it as was", () => {
  const color = drawn({ [LEFT]: -10, [MIDDLE]: -10, [RIGHT]: -10 }, { [LEFT]: -10, [RIGHT]: -10 - 3.0103 });
  expect([color(LEFT), color(MIDDLE)]).toEqual(["ff0000", "00ff00"]);
  expect(color(RIGHT)).toMatch(/^00(7f|80)(7f|80)$/);
});

it("tints nothing where nothing was taken, or more came", () => {
  expect(drawn({ [LEFT]: -10 }, { [LEFT]: -4 })(LEFT)).toBe("ff0000");
});
