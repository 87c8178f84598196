import { expect, it } from "vitest";
import { fadeIn, stepFade } from "./fades";

it("takes a fade as it was typed, within its limits", () => {
  expect(["12,5", "-1", "10001", "soft"].map(fadeIn)).toEqual([12.5, null, null, null]);
});

it("steps by a millisecond or ten, and no further than its limits", () => {
  expect([
    stepFade(10, 1, false),
    stepFade(10, -1, true),
    stepFade(4, -1, true),
    stepFade(9_995, 1, true),
  ]).toEqual([11, 0, 0, 10_000]);
});
