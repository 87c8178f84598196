import { screen, within } from "@testing-library/react";
import { expect, it } from "vitest";
import type { Levels, Measures } from "../../api/client";
import { source } from "../../api/testing";
import { show } from "../../shared/testing";
import { LevelTable } from "./LevelTable";

const levels = (peak: number): Levels => ({
  peak_dbfs: peak,
  true_peak_dbtp: peak + 0.5,
  rms_dbfs: peak - 12,
  loudness_lufs: peak - 10,
  crest_db: 12,
  dc: 0,
  steady_dc: 0,
  clipped_runs: 0,
  clipped_samples: 0,
});

const measured = (...peaks: number[]): Measures => ({
  whole: levels(Math.max(...peaks)),
  channels: peaks.map(levels),
  sides: null,
  damaged: 0,
  bits_used: 24,
  samples: "0",
  level_steps: [],
});

const texts = (table: HTMLElement) =>
  within(table)
    .getAllByRole("row")
    .map((row) => [...row.children].map((cell) => cell.textContent));

it("shows two channels beside the whole", () => {
  show(<LevelTable source={source("sea", 2)} measures={measured(-3, -6)} />);
  const [heads, peaks] = texts(screen.getByRole("table", { name: "Levels" }));
  expect(heads).toEqual(["", "overall", "L", "R"]);
  expect(peaks).toEqual(["peak (dBFS)", "−3.0", "−3.0", "−6.0"]);
  expect(screen.queryByRole("table", { name: "Levels of each channel" })).toBeNull();
});

it("shows every one of many channels, by the name that its file gives it", () => {
  const pier = source("pier", 3, { labels: ["Mix", "", "Boom"], speakers: [] });
  show(<LevelTable source={pier} measures={measured(-3, -6, -20)} />);
  expect(texts(screen.getByRole("table", { name: "Levels of each channel" }))).toEqual([
    ["", "Peak", "TP", "RMS", "LUFS"],
    ["Mix", "−3.0", "−2.5", "−15.0", "−13.0"],
    ["channel 2", "−6.0", "−5.5", "−18.0", "−16.0"],
    ["Boom", "−20.0", "−19.5", "−32.0", "−30.0"],
  ]);
  const [heads] = texts(screen.getByRole("table", { name: "Levels" }));
  expect(heads).toEqual(["", "overall"]);
});
