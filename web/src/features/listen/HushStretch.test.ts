import { expect, it } from "vitest";
import { shifted } from "./HushStretch";

it("moves a span within the file", () => {
  expect(shifted([100, 200], "both", 50, 1_000)).toEqual([150, 250]);
  expect(shifted([100, 200], "both", -500, 1_000)).toEqual([0, 100]);
  expect(shifted([100, 200], "both", 5_000, 1_000)).toEqual([900, 1_000]);
});

it("resizes it at either end, to a frame at the least", () => {
  expect(shifted([100, 200], "start", 30.4, 1_000)).toEqual([130, 200]);
  expect(shifted([100, 200], "start", 500, 1_000)).toEqual([199, 200]);
  expect(shifted([100, 200], "end", -500, 1_000)).toEqual([100, 101]);
  expect(shifted([100, 200], "end", 5_000, 1_000)).toEqual([100, 1_000]);
});
