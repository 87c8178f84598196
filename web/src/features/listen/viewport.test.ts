import { describe, expect, it } from "vitest";
import { binFor, decimalsOf, pan, showAll, showRange, tickStep, zoom } from "./viewport";

const FRAMES = 1_000_000;
const WIDTH = 800;

describe("the viewport", () => {
  it("shows all, and a range exactly", () => {
    expect(showAll(FRAMES, WIDTH)).toEqual({ start: 0, scale: 1250 });
    expect(showRange([4_000, 12_000], WIDTH)).toEqual({ start: 4_000, scale: 10 });
  });

  it("keeps the frame under the pointer when zooming in", () => {
    const before = showRange([100_000, 500_000], WIDTH);
    const after = zoom(before, 4, 300, FRAMES, WIDTH);
    expect(after.scale).toBe(before.scale / 4);
    expect(after.start + 300 * after.scale).toBeCloseTo(before.start + 300 * before.scale, 6);
  });

  it("never leaves the clip", () => {
    const all = showAll(FRAMES, WIDTH);
    expect(zoom(all, 0.01, 400, FRAMES, WIDTH)).toEqual(all);
    const near = showRange([0, 8_000], WIDTH);
    expect(pan(near, -10_000, FRAMES, WIDTH).start).toBe(0);
    expect(pan(near, 10_000_000, FRAMES, WIDTH).start).toBe(FRAMES - 8_000);
    expect(zoom(near, 1e9, 0, FRAMES, WIDTH).scale).toBe(1 / 24);
  });

  it("asks for bins no longer than a pixel of the screen", () => {
    expect([binFor(1250, 1), binFor(1250, 2), binFor(256, 1), binFor(0.5, 1)]).toEqual([1024, 512, 256, 1]);
  });

  it("steps a time axis by 1, 2 or 5", () => {
    expect([tickStep(0.01), tickStep(0.05), tickStep(1 / 48_000)]).toEqual([1, 5, 0.002]);
    expect([5, 1, 0.5, 0.1, 0.002].map(decimalsOf)).toEqual([0, 0, 1, 1, 3]);
  });
});
