import { expect, it } from "vitest";
import { gainsFor, MODES } from "./modes";

const heard = (mode: (typeof MODES)[number], samples: number[], pair: [number, number] = [0, 1]) => {
  const gains = gainsFor(mode, samples.length, pair);
  return [0, 1].map((ear) =>
    samples.reduce((sum, x, c) => sum + x * (gains[ear * samples.length + c] ?? 0), 0),
  );
};

it("plays stereo as it is and folds by halves", () => {
  expect(MODES.map((mode) => heard(mode, [0.8, 0.2]))).toEqual([
    [0.8, 0.2],
    [0.8, 0.8],
    [0.2, 0.2],
    [0.5, 0.5],
    [0.30000000000000004, 0.30000000000000004],
  ]);
});

it("plays mono in both ears at its level, and its difference is silence", () => {
  expect(heard("stereo", [0.7])).toEqual([0.7, 0.7]);
  expect(heard("mono", [0.7])).toEqual([0.7, 0.7]);
  expect(heard("difference", [0.7])).toEqual([0, 0]);
});

it("plays the two chosen of many channels", () => {
  expect(heard("stereo", [1, 2, 3, 4], [3, 1])).toEqual([4, 2]);
});
