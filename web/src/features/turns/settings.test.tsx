import { act, cleanup, fireEvent, screen } from "@testing-library/react";
import { expect, it } from "vitest";
import type { Lateness } from "../../api/client";
import { clip, DEFAULTS, splitStep } from "../../api/testing";
import { splitsMidSide } from "../../api/turns";
import { selectHush } from "./hushing";
import { bestText } from "./settings/SecondMicrophone";
import { choose, settings, shownAt, slide, tick } from "./settingsTesting";

it("shows what each law of a fold does to this material", async () => {
  const { tell, changed } = settings(DEFAULTS.fold);
  const sides = { mono_fold_loss_db: 8.6, fold_dbfs: { average: -30, power: -27, full: -24 } };
  await tell("measures", { measures: { sides }, findings: [] });
  expect(await screen.findByText("−27.0 dBFS")).toBeTruthy();
  expect(screen.getByText(/8.6 dB is lost to cancellation/)).toBeTruthy();
  await tick(screen.getByLabelText(/−3 dB/));
  expect(changed().law).toBe("power");
  await tell("measures", { measures: { sides: { ...sides, mono_fold_loss_db: null } }, findings: [] });
  expect(await screen.findByText("Left and right cancel completely.")).toBeTruthy();
});

it("blends two sides, and shows no law where nothing is summed", () => {
  const { changed } = settings({ ...DEFAULTS.fold, take: "blend", blend: 0.6 });
  expect(shownAt("Blend L : R")).toBe("40 : 60");
  expect(screen.queryByText("× ½")).toBeNull();
  slide("Blend L : R", 0.25);
  expect(changed().blend).toBe(0.25);
});

it("says from which side amount on a fold gets poor, whichever is the mid", async () => {
  const { tell, changed } = settings(DEFAULTS.decode);
  await tell("measures", { measures: { sides: { balance_db: 6 } }, findings: [] });
  expect(await screen.findByText(/Above \+6.0 dB the side is louder/)).toBeTruthy();
  slide("Side level", -60.5);
  expect(changed().side_db).toBe("off");
  slide("Side level", 3);
  expect(changed().side_db).toBe(3);
  const turned = settings({ ...DEFAULTS.decode, exchange: true, side_db: "off" });
  await turned.tell("measures", { measures: { sides: { balance_db: 6 } }, findings: [] });
  expect(await screen.findByText(/Above −6.0 dB the side/)).toBeTruthy();
  expect(shownAt("Side level")).toBe("off");
});

it("reads a matrix in per cent, and says by how much it could clip", () => {
  const { changed } = settings(DEFAULTS.matrix);
  expect(screen.getByText("Can’t clip.")).toBeTruthy();
  slide("R → L", -0.5);
  expect(changed()).toEqual({ ...DEFAULTS.matrix, lr: -0.5 });
  settings({ ...DEFAULTS.matrix, lr: 1 });
  expect(screen.getByText(/Worst-case peak: \+6.0 dB/)).toBeTruthy();
});

it("flips one channel of many, and never none", async () => {
  const matrix = [0, 1, 2].map((row) =>
    [0, 1, 2].map((column) => (row === column ? (row === 1 ? -1 : 1) : 0)),
  );
  const { changed, onChange } = settings({ kind: "polarity", channels: [2] }, { matrix });
  await tick(screen.getByLabelText("channel 3"));
  expect(changed().channels).toEqual([2, 3]);
  await tick(screen.getByLabelText("channel 2"));
  expect(onChange).toHaveBeenCalledOnce();
});

it("sums with a gain and a sign for each input", async () => {
  const inputs = ["source:sea", "source:wind"];
  const { changed } = settings({ ...DEFAULTS.sum, flip: [2] }, { inputs });
  slide("input 2", -6);
  expect(changed().gains_db).toEqual([0, -6]);
  const [first, second] = screen.getAllByLabelText("Invert");
  await tick(first);
  expect(changed().flip).toEqual([1, 2]);
  await tick(second);
  expect(changed().flip).toEqual([]);
});

it("levels all channels together or each by itself", async () => {
  const { changed } = settings({ ...DEFAULTS.level, gains_db: [-3] });
  await tick(screen.getByLabelText("Set channels separately"));
  expect(changed().gains_db).toEqual([-3, -3]);
  const each = settings({ ...DEFAULTS.level, gains_db: [-3, 2] });
  slide("right", 5);
  expect(each.changed().gains_db).toEqual([-3, 5]);
});

it("offers the gains that make channels equally loud", async () => {
  const { tell, changed } = settings(DEFAULTS.level);
  await tell("measures", { measures: {}, findings: [], even_gains_db: [0, 3.25] });
  fireEvent.click(await screen.findByText("Match channels: 0.0 dB, +3.3 dB"));
  expect(changed().gains_db).toEqual([0, 3.25]);
});

it("takes a delay in samples and fractions of them, and nothing that is no number", () => {
  const { changed, onChange } = settings({ ...DEFAULTS.align, delay: [0, 14] });
  const field = screen.getByLabelText("Delay of left");
  const enter = (value: string) => {
    fireEvent.change(field, { target: { value } });
    fireEvent.blur(field);
  };
  enter("12");
  expect(changed().delay).toEqual([12, 14]);
  enter("−3");
  expect(changed().delay).toEqual([-3, 14]);
  enter("12,25");
  expect(changed().delay).toEqual([12.25, 14]);
  for (const wrong of ["soon", "1 2", "1.2.3"]) {
    enter(wrong);
    expect(screen.getByRole("alert").textContent).toBe(`“${wrong}” is not a number of samples.`);
    expect(field).toHaveProperty("value", "0");
  }
  expect(onChange).toHaveBeenCalledTimes(3);
  fireEvent.keyDown(screen.getByLabelText("Delay of right"), { key: "ArrowUp" });
  expect(changed().delay).toEqual([0, 15]);
  fireEvent.keyDown(screen.getByLabelText("Delay of right"), { key: "ArrowDown", shiftKey: true });
  expect(changed().delay).toEqual([0, 4]);
});

const LATE: Lateness = {
  channel: 2,
  samples: 14.25,
  confidence: 0.834,
  runner_up: 0.1,
  inverted: false,
  drift: null,
  curve_start: -1,
  curve: [0.1, 0.8, 0.2],
};

it("finds the delay of the other channels and lines them up", async () => {
  const { tell, changed } = settings(DEFAULTS.align);
  await tell("lateness", [LATE]);
  fireEvent.click(screen.getByText("Measure the delay"));
  expect(
    await screen.findByText("right is 14.25 samples (0.30 ms) behind left (confidence 0.83)."),
  ).toBeTruthy();
  expect(screen.getByLabelText("Correlation of right by delay, from -1 to 1 samples")).toBeTruthy();
  fireEvent.click(screen.getByText("Align: 14.25, 0 samples later"));
  expect(changed().delay).toEqual([14.25, 0]);
});

it("does not guess a delay, and tells of clocks that drift apart", async () => {
  const { tell } = settings(DEFAULTS.align);
  const drift = { ppm: 12.5, at_start: 3, at_end: 48 };
  await tell("lateness", [
    { ...LATE, samples: null, confidence: 0.05 },
    { ...LATE, samples: null, drift },
  ]);
  fireEvent.click(screen.getByText("Measure the delay"));
  const panel = await screen.findByTestId("found-delays");
  expect(panel.textContent).toContain("The delay of right against left is uncertain (confidence 0.05)");
  expect(panel.textContent).toContain(
    "right drifts against left by 12.5 ppm: 3 samples late at the start, 48 at the end.",
  );
  expect(screen.queryByText(/^align:/)).toBeNull();
});

it("splits the selected hush at the playhead", async () => {
  const hush = { channel: 1, start: 0, end: 1, gain_db: "mute" as const, fade_ms: 10 };
  const { changed } = settings({ ...DEFAULTS.level, hush: [hush] });
  // The list has no size here, so none of its rows are on the page.
  await act(async () => selectHush("s", 0));
  fireEvent.click(screen.getByText("Split at playhead"));
  expect(changed().hush).toEqual([
    { ...hush, end: "24000s" },
    { ...hush, start: "24000s" },
  ]);
});

it("says what the best sum of two microphones takes", () => {
  const best = { flip: true, delay: -12.25, gain_db: 4.2, confidence: 0.96 };
  expect(bestText(best)).toBe("right inverted, right 12.25 samples earlier (confidence 0.96), lows +4.2 dB");
  expect(bestText({ ...best, confidence: null })).toContain("(by the low end alone)");
});

it("calls the endings of a split by what they are for", () => {
  const outputs = [clip("swell_mid"), clip("swell_side")];
  const { changed } = settings(DEFAULTS.split, { outputs });
  const field = screen.getByLabelText("Suffix of mid");
  fireEvent.change(field, { target: { value: "_M" } });
  fireEvent.blur(field);
  expect(changed().endings).toEqual(["_M", "_side"]);
});

it("splits a file of many channels to mono, two by two, or by its tracks", () => {
  const outputs = ["_1", "_2", "_3", "_4"].map((end) => clip(`poly${end}`));
  const matrix = [0, 1, 2, 3].map((row) => [0, 1, 2, 3].map((column) => Number(row === column)));
  const { changed } = settings({ ...DEFAULTS.split, parts: [3, 1] }, { outputs, matrix });
  const field = screen.getByLabelText("Split to");
  expect(screen.getByRole("option", { name: "files of 3, 1 channels" })).toBeTruthy();
  fireEvent.change(field, { target: { value: "2,2" } });
  expect(changed().parts).toEqual([2, 2]);
  fireEvent.change(field, { target: { value: "" } });
  expect(changed().parts).toEqual([]);
});

it("knows a split of mid and side by what its results are called", () => {
  const splitInto = (...names: string[]) => splitStep({ outputs: names.map((name) => clip(name)) });
  expect(splitsMidSide(splitInto("swell_mid", "swell_side"))).toBe(true);
  expect(splitsMidSide(splitInto("swell_L", "swell_R"))).toBe(false);
  expect(splitsMidSide({ ...splitInto("a_mid", "a_side"), turn: DEFAULTS.swap })).toBe(false);
});

it("trims to what is typed or selected", () => {
  const { changed, onChange } = settings(DEFAULTS.trim);
  const enter = (label: string, value: string) => {
    fireEvent.change(screen.getByLabelText(label), { target: { value } });
    fireEvent.blur(screen.getByLabelText(label));
  };
  enter("Range from", "0:01.5");
  expect(changed()).toEqual({ ...DEFAULTS.trim, start: 1.5 });
  enter("Range to", "96000s");
  expect(changed()).toEqual({ ...DEFAULTS.trim, end: "96000s" });
  enter("Range from", "end");
  expect(screen.getByRole("alert").textContent).toContain("“end” is not a time");
  enter("Range to", "later");
  expect(screen.getAllByRole("alert").at(-1)?.textContent).toContain("“later” is not a time");
  expect(onChange).toHaveBeenCalledTimes(2);
  expect(screen.queryByLabelText("Times are")).toBeNull();
  fireEvent.click(screen.getByText("Trim to selected range"));
  expect(changed()).toEqual({ ...DEFAULTS.trim, start: "480s", end: "960s" });
});

it("counts a trim by the clock where the file has a start time", () => {
  // What went in began at 100 s; the trim leaves out its first second.
  const out = clip("sea", 2, { start_time: 101 * 48_000 });
  const file = { ...DEFAULTS.trim, start: "48000s", end: 3 };
  const timed = settings(file, { outputs: [out], begins_at: 48_000 });
  choose("Times are", "recorded");
  expect(timed.changed()).toEqual({ ...file, time: "recorded", start: 101, end: 103 });
  fireEvent.click(screen.getByText("Trim to selected range"));
  expect(timed.changed()).toEqual({ ...file, start: "480s", end: "960s" });
  cleanup();
  const recorded = { ...file, time: "recorded" as const, start: 101, end: "end" };
  const back = settings(recorded, { outputs: [out], begins_at: 48_000 });
  choose("Times are", "file");
  expect(back.changed()).toEqual({ ...file, start: 1, end: "end" });
  fireEvent.click(screen.getByText("Trim to selected range"));
  expect(back.changed()).toEqual({ ...recorded, start: 100.01, end: 100.02 });
});

it("resamples to a usual rate, to that of a file, or to any", async () => {
  const { changed } = settings(DEFAULTS.resample);
  const options = [...(screen.getByLabelText("Sample rate") as HTMLSelectElement).options].map(
    (one) => one.text,
  );
  expect(options).toContain("32 kHz, as take");
  expect(options).toContain("48 kHz, as room and others");
  choose("Sample rate", "96000");
  expect(changed()).toEqual({ kind: "resample", rate: 96_000 });
  await tick(screen.getByText("More"));
  for (const [typed, rate] of [
    ["47952", 47_952],
    ["44.1 kHz", 44_100],
    ["88.2k", 88_200],
  ] as const) {
    fireEvent.change(screen.getByLabelText("Rate in Hz: value"), { target: { value: typed } });
    fireEvent.blur(screen.getByLabelText("Rate in Hz: value"));
    expect(changed().rate).toBe(rate);
  }
});

it("takes the time code of the recording where it takes a time", () => {
  const recorded = { start_time: 3600 * 48_000, frame_rate: "25" };
  const { changed } = settings(DEFAULTS.trim, { outputs: [clip("sea", 2, recorded)], begins_at: 0 });
  const enter = (text: string) => {
    fireEvent.change(screen.getByLabelText("Range from"), { target: { value: text } });
    fireEvent.blur(screen.getByLabelText("Range from"));
  };
  enter("01:00:01:12");
  expect(changed().start).toBe(1.48);
  enter("01:00:01:25");
  expect(screen.getByText("01:00:01:25 is not a time code at 25 frames a second.")).toBeTruthy();
});
