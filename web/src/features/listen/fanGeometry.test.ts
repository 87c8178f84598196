import { expect, it } from "vitest";
import { fanIn, piece, placeAt, spotAt } from "./fanGeometry";

it("fits any room, and stays upright in it", () => {
  for (const [width, height] of [
    [320, 330],
    [900, 300],
    [200, 700],
  ] as const) {
    const fan = fanIn(width, height);
    for (const [pan, up] of [
      [-1, 1],
      [0, 1],
      [1, 1],
      [-1, 0],
      [1, 0],
    ] as const) {
      const { x, y } = spotAt(fan, pan, up);
      expect(x).toBeGreaterThanOrEqual(19);
      expect(x).toBeLessThanOrEqual(width - 19);
      expect(y).toBeGreaterThanOrEqual(0);
      expect(y).toBeLessThanOrEqual(height);
    }
    expect(spotAt(fan, 0, 1).x).toBe(width / 2);
    expect(spotAt(fan, 0, 0).y).toBeGreaterThan(spotAt(fan, 0, 1).y);
  }
});

it("finds a place again from where it is drawn", () => {
  const fan = fanIn(320, 330);
  for (const pan of [-1, -0.3, 0, 0.02, 1])
    for (const up of [0, 0.25, 1]) {
      const back = placeAt(fan, spotAt(fan, pan, up));
      expect(back.pan).toBeCloseTo(pan, 9);
      expect(back.up).toBeCloseTo(up, 9);
    }
});

it("draws a piece between two directions and two arcs", () => {
  const path = piece(fanIn(320, 330), [-0.5, 0.5], [0.2, 0.8]);
  expect(path).toMatch(/^M[\d. ]+L[\d. ]+A[\d. ]+L[\d. ]+A[\d. ]+Z$/);
});
