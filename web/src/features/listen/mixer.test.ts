import { expect, it } from "vitest";
import type { FromGraph, Side, ToGraph } from "./messages";
import { Mixer, REPORT_EVERY_FRAMES } from "./mixer";

const RATE = 48_000;
const FADE = 240;
const BLOCK = 1_000;
const STEREO = [1, 0, 0, 1];

/** A mixer that plays blocks whose samples tell which clip, setting, channel and frame they are. */
class Bench {
  readonly reports: FromGraph[] = [];
  readonly mixer = new Mixer(RATE, (message) => this.reports.push(message));
  private epoch = 0;

  constructor(
    private clips = ["a", "b"],
    private keys = ["a1", "b1"],
    private frames = 10_000,
  ) {
    this.sides();
    this.blocks();
  }

  send(message: ToGraph) {
    this.mixer.take(message);
  }

  sides(gains: [number[], number[]] = [STEREO, STEREO]) {
    const side = (n: Side) => ({
      clip: this.clips[n] as string,
      key: this.keys[n] as string,
      channels: 2,
      gains: gains[n],
    });
    this.send({ kind: "sides", sides: [side(0), side(1)], blockFrames: BLOCK, frames: this.frames });
  }

  change(side: Side, change: { clip?: string; key?: string }) {
    if (change.clip) this.clips[side] = change.clip;
    if (change.key) this.keys[side] = change.key;
    this.sides();
  }

  block(side: Side, index: number) {
    const [clip, key] = [this.clips[side] as string, this.keys[side] as string];
    const data = new Float32Array(2 * BLOCK);
    for (let i = 0; i < BLOCK; i++)
      for (const c of [0, 1]) data[2 * i + c] = sample(key, c, index * BLOCK + i);
    this.send({ kind: "block", side, clip, key, index, data });
  }

  blocks(from = 0, to = 10) {
    for (let index = from; index < to; index++) for (const side of [0, 1] as const) this.block(side, index);
  }

  monitor(side: Side, difference = false) {
    this.send({ kind: "monitor", side, difference });
  }

  seek(position: number) {
    this.send({ kind: "seek", position, epoch: ++this.epoch });
  }

  play(playing = true) {
    this.send({ kind: "play", playing, epoch: ++this.epoch });
  }

  /** What the left and the right ear hear of so many frames. */
  hear(frames: number): [Float32Array, Float32Array] {
    const both: [Float32Array, Float32Array] = [new Float32Array(frames), new Float32Array(frames)];
    for (let at = 0; at < frames; at += 128) {
      const run = Math.min(128, frames - at);
      this.mixer.render(both[0].subarray(at, at + run), both[1].subarray(at, at + run));
    }
    return both;
  }
}

const LEVELS: Record<string, number> = { a1: 0.1, a2: 0.2, b1: -0.1, b2: -0.2, c1: 0.4 };
const sample = (key: string, channel: number, frame: number) =>
  Math.fround((LEVELS[key] ?? 0) + channel * 0.01 + (frame % 100) * 1e-4);
const clip = (key: string, channel: number, from: number, frames: number) =>
  Float32Array.from({ length: frames }, (_, i) => sample(key, channel, from + i));
/** The largest step from one sample to the next. */
const largestStep = (sound: Float32Array) =>
  Math.max(...sound.slice(1).map((value, n) => Math.abs(value - (sound[n] ?? 0))));
/** A fade of a difference of 0.2 over 240 frames, and the clips' own steps. */
const SMOOTH = 0.2 / FADE + 0.011;

it("plays what came in, to the bit, across blocks", () => {
  const bench = new Bench();
  bench.play();
  const [left, right] = bench.hear(2_500);
  expect(left).toEqual(clip("a1", 0, 0, 2_500));
  expect(right).toEqual(clip("a1", 1, 0, 2_500));
});

it("joins the ends of a loop to the sample", () => {
  const bench = new Bench();
  bench.send({ kind: "loop", loop: [300, 1_300] });
  bench.seek(300);
  bench.play();
  const [left] = bench.hear(2_000);
  expect(left.slice(0, 1_000)).toEqual(clip("a1", 0, 300, 1_000));
  expect(left.slice(1_000)).toEqual(clip("a1", 0, 300, 1_000));
});

it.each([
  ["Out instead of In", (bench: Bench) => bench.monitor(1), "b1", 1],
  ["In less Out", (bench: Bench) => bench.monitor(0, true), "difference", 1],
  [
    "other gains",
    (bench: Bench) => bench.send({ kind: "gains", gains: [[0.5, 0, 0, 0.5], STEREO] }),
    "a1",
    0.5,
  ],
])("fades over 5 ms to %s", (_, change, key, gain) => {
  const bench = new Bench();
  bench.play();
  const before = bench.hear(500)[0];
  change(bench);
  const after = bench.hear(1_000)[0];
  expect(largestStep(Float32Array.of(...before.slice(-1), ...after))).toBeLessThan(SMOOTH);
  const expected =
    key === "difference"
      ? clip("a1", 0, 500, 1_000).map((value, n) => value - sample("b1", 0, 500 + n))
      : clip(key, 0, 500, 1_000).map((value) => gain * value);
  expect(after.slice(FADE)).toEqual(expected.slice(FADE));
  expect(after[FADE / 2]).not.toEqual(expected[FADE / 2]);
});

it("fades out on pause, and starts again at full level where it stopped", () => {
  const bench = new Bench();
  bench.play();
  bench.hear(512);
  bench.play(false);
  const [tail] = bench.hear(600);
  expect(tail[0]).toBeCloseTo(sample("a1", 0, 512), 3);
  expect(largestStep(tail)).toBeLessThan(SMOOTH);
  expect([...tail.slice(FADE)].every((value) => value === 0)).toBe(true);
  bench.play();
  expect(bench.hear(300)[0]).toEqual(clip("a1", 0, 512, 300));
});

it("fades from the old place to the new on a seek while playing", () => {
  const bench = new Bench();
  bench.play();
  bench.hear(500);
  bench.seek(5_050);
  const [left] = bench.hear(1_000);
  expect(left[0]).toBeCloseTo(sample("a1", 0, 500), 3);
  expect(left.slice(FADE)).toEqual(clip("a1", 0, 5_050 + FADE, 1_000 - FADE));
});

it("ends a fade that a second switch breaks off without a step", () => {
  const bench = new Bench();
  bench.play();
  bench.hear(500);
  bench.monitor(1);
  const first = bench.hear(100)[0];
  bench.monitor(0);
  const second = bench.hear(600)[0];
  expect(largestStep(Float32Array.of(...first.slice(-1), ...second))).toBeLessThan(SMOOTH);
  expect(second.slice(FADE)).toEqual(clip("a1", 0, 600 + FADE, 600 - FADE));
});

it("goes on with the old samples of a moved setting until the new ones come, and fades to them", () => {
  const bench = new Bench();
  bench.play();
  bench.hear(512);
  bench.change(0, { key: "a2" });
  expect(bench.hear(128)[0]).toEqual(clip("a1", 0, 512, 128));
  bench.blocks();
  const [left] = bench.hear(1_500);
  expect(largestStep(left)).toBeLessThan(SMOOTH);
  expect(left.slice(FADE)).toEqual(clip("a2", 0, 640 + FADE, 1_500 - FADE));
});

it("fades at the border of two blocks where only the later has its new samples", () => {
  const bench = new Bench();
  bench.play();
  bench.hear(512);
  bench.change(0, { key: "a2" });
  bench.block(0, 1);
  const [left] = bench.hear(1_000);
  expect(left.slice(0, 488)).toEqual(clip("a1", 0, 512, 488));
  expect(largestStep(left)).toBeLessThan(SMOOTH);
  expect(left.slice(488 + FADE)).toEqual(clip("a2", 0, 1_000 + FADE, 512 - FADE));
});

it("plays nothing of the setting of before where it was changed while paused", () => {
  const bench = new Bench();
  bench.play();
  bench.hear(512);
  bench.play(false);
  bench.hear(512);
  bench.change(0, { key: "a2" });
  bench.play();
  expect([...bench.hear(512)[0]].every((value) => value === 0)).toBe(true);
  bench.blocks();
  expect(bench.hear(512)[0]).toEqual(clip("a2", 0, 512, 512));
});

it("plays nothing of an earlier setting after a seek", () => {
  const bench = new Bench();
  bench.play();
  bench.hear(512);
  bench.change(0, { key: "a2" });
  bench.seek(4_000);
  const [left] = bench.hear(1_000);
  expect([...left.slice(FADE)].every((value) => value === 0)).toBe(true);
});

it("plays nothing of another clip, playing or not", () => {
  for (const playing of [true, false]) {
    const bench = new Bench();
    bench.play();
    bench.hear(512);
    if (!playing) bench.play(false);
    bench.change(0, { clip: "c", key: "c1" });
    bench.hear(FADE);
    bench.play();
    expect([...bench.hear(512)[0]].every((value) => value === 0)).toBe(true);
    bench.blocks();
    expect(bench.hear(256)[0]).toEqual(clip("c1", 0, 512, 256));
  }
});

it("takes no block of a setting or a clip that is not wanted any more", () => {
  const bench = new Bench();
  bench.change(0, { key: "a2" });
  const data = new Float32Array(2 * BLOCK).fill(1);
  bench.send({ kind: "block", side: 0, clip: "a", key: "a1", index: 0, data });
  bench.send({ kind: "block", side: 0, clip: "z", key: "a2", index: 0, data });
  bench.play();
  expect([...bench.hear(512)[0]].every((value) => value === 0)).toBe(true);
});

it("waits for both sides, and says so", () => {
  const bench = new Bench();
  bench.send({ kind: "drop", side: 1, index: 1 });
  bench.play();
  bench.hear(4_096);
  const waits = bench.reports.filter((report) => report.waiting);
  expect(new Set(waits.map((report) => report.position))).toEqual(new Set([BLOCK]));
  bench.block(1, 1);
  expect(bench.hear(128)[0]).toEqual(clip("a1", 0, BLOCK, 128));
  expect(bench.reports.at(-1)).toMatchObject({ waiting: false, playing: true });
});

it("stops at the end, and says so", () => {
  const bench = new Bench(["a", "b"], ["a1", "b1"], 1_500);
  bench.play();
  expect(bench.hear(2_000)[0].slice(1_500)).toEqual(new Float32Array(500));
  expect(bench.reports.at(-1)).toMatchObject({ position: 1_500, playing: false });
});

it("reports what was heard, every sample of it once", () => {
  const bench = new Bench();
  bench.play();
  bench.hear(3 * REPORT_EVERY_FRAMES);
  const heard = bench.reports.flatMap((report) => [...(report.heard ?? [])]);
  const left = clip("a1", 0, 0, 3 * REPORT_EVERY_FRAMES);
  expect(heard.filter((_, n) => n % 2 === 0)).toEqual([...left]);
});

it("says in each report which seek, play or pause it knows of", () => {
  const bench = new Bench();
  bench.seek(10);
  bench.play();
  bench.hear(REPORT_EVERY_FRAMES);
  bench.play(false);
  expect(bench.reports.map((report) => report.epoch)).toEqual([1, 2, 2, 3]);
});
