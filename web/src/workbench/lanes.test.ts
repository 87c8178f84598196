import { expect, it } from "vitest";
import { clip, DEFAULTS, splitStep } from "../api/testing";
import { lanesOf } from "./lanes";

const clips = new Map([["source:sea", clip("sea", 2, { ref: "source:sea", rate: 48_000 })]]);
const heard = (rate: number) =>
  lanesOf(
    splitStep({
      turn: { ...DEFAULTS.resample, rate },
      inputs: ["source:sea"],
      outputs: [clip("sea", 2, { ref: "step:s:0", rate })],
    }),
    [],
    clips,
  ).map((lane) => lane && [lane.label, lane.clips[0]?.rate]);

it("plays Out alone where it has another sample rate than In", () => {
  expect(heard(44_100)).toEqual([["Out", 44_100], null]);
  expect(heard(48_000)).toEqual([
    ["In", 48_000],
    ["Out", 48_000],
  ]);
});
