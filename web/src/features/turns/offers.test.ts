import { expect, it } from "vitest";
import type { Clip } from "../../api/client";
import { clip, group } from "../../api/testing";
import { answers, offersFor } from "./offers";

const of = (kind: string, chosen: Clip[], groups: Parameters<typeof offersFor>[1] = []) =>
  offersFor(chosen, groups).find((offer) => offer.kind === kind);

it("offers what takes the chosen clips and says why the rest does not", () => {
  expect(of("merge", [])?.refused).toBe("select at least 2 mono clips first");
  expect(of("split", [])?.refused).toBe("select one clip with at least 2 channels first");
  expect(of("split", [clip("a", 1)])?.refused).toBe("needs one clip with at least 2 channels");
  expect(of("merge", [clip("a", 1), clip("b", 1)])?.refused).toBeNull();
  expect(of("swap", [clip("a", 2)])?.refused).toBeNull();
  expect(of("swap", [clip("a", 6)])?.refused).not.toBeNull();
  expect(of("merge", [clip("a", 1), clip("b", 2)])?.refused).not.toBeNull();
  expect(of("sum", [clip("a", 2), clip("b", 2)])?.refused).toBeNull();
  expect(of("sum", [clip("a", 2), clip("b", 1)])?.refused).toBe(
    "needs at least 2 clips with the same number of channels",
  );
  const difference = (...chosen: Clip[]) => offersFor(chosen).find((offer) => offer.name === "null")?.refused;
  expect(difference(clip("a", 2), clip("b", 2))).toBeNull();
  expect(difference(clip("a", 2), clip("b", 2), clip("c", 2))).toBe("needs two clips");
  expect(of("align", [clip("a", 6)])?.steps[0]?.turn).toEqual({ kind: "align", delay: [0, 0, 0, 0, 0, 0] });
});

it("trims to what is selected", () => {
  const offer = (range: Parameters<typeof offersFor>[2]) =>
    offersFor([clip("a", 2)], [], range).find((one) => one.kind === "trim");
  expect(offer(null)?.steps[0]?.turn).toEqual({ kind: "trim" });
  expect(offer({ start: 100, end: 200, rate: 48_000, startTime: 9 })?.steps[0]?.turn).toEqual({
    kind: "trim",
    start: "100s",
    end: "200s",
  });
});

it("trims files of one session alike, by the clock", () => {
  const range = { start: 4_800, end: 9_600, rate: 48_000, startTime: 48_000 };
  const recorded = (chosen: Clip[], startTime: number | null = range.startTime) =>
    offersFor(chosen, [], { ...range, startTime }).find((one) => one.label.includes("in recorded time"));
  const timed = [clip("a", 2, { start_time: 48_000 }), clip("b", 1, { start_time: 90_000 })];
  expect(recorded(timed)?.steps.map((one) => one.turn)).toEqual(
    timed.map(() => ({ kind: "trim", time: "recorded", start: 1.1, end: 1.2 })),
  );
  expect(recorded(timed.slice(1))).toBeUndefined();
  expect(recorded([...timed, clip("c", 2)])).toBeUndefined();
  expect(recorded(timed, null)).toBeUndefined();
});

it.each([
  ["remove vocals", { kind: "centre", keep: "sides" }],
  ["keep vocals", { kind: "centre", keep: "centre" }],
  ["left only", { kind: "fold", take: "left" }],
  ["right only", { kind: "fold", take: "right" }],
  ["mono sum", { kind: "fold", take: "sum" }],
  ["invert left", { kind: "polarity", channels: "left" }],
  ["invert right", { kind: "polarity", channels: "right" }],
  ["wider", { kind: "width", width: 1.4 }],
  ["narrower", { kind: "width", width: 0.6 }],
])("has what people mean under its name, with its settings: %s", (name, turn) => {
  const first = (chosen: Clip[]) => {
    const ranked = offersFor(chosen).flatMap((offer) => {
      const rank = answers(offer, name);
      return rank === null ? [] : [{ offer, rank }];
    });
    return ranked.sort((a, b) => a.rank - b.rank)[0]?.offer;
  };
  expect(first([clip("sea", 2)])).toMatchObject({ name, steps: [{ turn, inputs: ["source:sea"] }] });
  // Of what can't go in, the turn itself says why.
  expect(first([])).toMatchObject({ kind: turn.kind, refused: expect.stringContaining("first") });
});

it("removes vocals over the selected range, and names what comes out", () => {
  const range = { start: 100, end: 200, rate: 48_000, startTime: null };
  const removal = (given: typeof range | null) =>
    offersFor([clip("sea", 2)], [], given).find((offer) => offer.name === "remove vocals")?.steps[0];
  expect(removal(range)).toMatchObject({
    names: ["sea_no-vocals"],
    over: { start: "100s", end: "200s", fade_ms: 10 },
  });
  expect(removal(null)).not.toHaveProperty("over");
});

it("makes one line for each of several files", () => {
  const split = of("split", [clip("a", 2), clip("b", 6), clip("c", 1)]);
  expect(split?.steps.map((one) => one.inputs)).toEqual([["source:a"], ["source:b"]]);
});

it("merges many by their groups, and takes two mono clips as mid and side", () => {
  const chosen = ["a_L", "a_R", "b_L", "b_R"].map((name) => clip(name));
  const groups = [group("a", ["source:a_L", "source:a_R"]), group("b", ["source:b_L", "source:b_R"])];
  expect(of("merge", chosen, groups)?.steps.map((one) => one.inputs)).toEqual(
    groups.map((one) => one.members),
  );
  expect(of("merge", chosen)?.label).toContain("quad");
  expect(of("decode", chosen.slice(0, 2))?.steps[0]?.inputs).toHaveLength(2);
});

it.each([
  ["flip", "polarity"],
  ["invert", "polarity"],
  ["mono", "fold"],
  ["vocal", "centre"],
  ["delay", "align"],
  ["gain", "level"],
  ["pan", "matrix"],
  ["m/s", "encode"],
  ["MS", "encode"],
  ["cent", "centre"],
])("knows other words for a turn: %s", (typed, kind) => {
  const listed = offersFor([clip("sea", 2)]).filter(
    (offer) => !offer.refused && answers(offer, typed) !== null,
  );
  expect(listed.map((offer) => offer.kind)[0]).toBe(kind);
});

it("puts what is called so before what other words mean", () => {
  const rank = (kind: string, typed: string) => {
    const offer = offersFor([clip("sea", 2)]).find((one) => (one.name ?? one.kind) === kind);
    return offer && answers(offer, typed);
  };
  expect([rank("merge", "m"), rank("encode", "m"), rank("swap", "m")]).toEqual([0, 2, 2]);
  expect(rank("swap", "split night-ferry")).toBeNull();
  expect([rank("remove vocals", "vocals"), rank("centre", "vocals")]).toEqual([1, 2]);
});

it("takes files of two sample rates together only at one of them, which is chosen", () => {
  const chosen = [clip("gull_L", 1, { rate: 44_100 }), clip("gull_R", 1, { rate: 48_000 })];
  const merges = offersFor(chosen).filter((offer) => offer.kind === "merge");
  expect(merges.map(({ name, refused }) => [name, refused])).toEqual([
    [undefined, "needs one sample rate, not 44.1 kHz and 48 kHz"],
    ["merge at 44.1 kHz", null],
    ["merge at 48 kHz", null],
  ]);
  expect(merges.map(({ steps }) => steps[0]?.rate)).toEqual([undefined, 44_100, 48_000]);
  expect(merges[1]?.label).toBe("merge gull_L and gull_R into one stereo file, resampled to 44.1 kHz");
});

it("resamples each clip to the usual rate that it is not at", () => {
  const offer = of("resample", [clip("phone", 1, { rate: 44_100 }), clip("mix", 2)]);
  expect(offer?.steps.map(({ turn }) => turn)).toEqual([
    { kind: "resample", rate: 48_000 },
    { kind: "resample", rate: 44_100 },
  ]);
});
