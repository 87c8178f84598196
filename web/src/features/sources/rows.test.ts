import { expect, it } from "vitest";
import type { Pair } from "../../api/client";
import { source } from "../../api/testing";
import { arrange, select } from "./rows";

const sources = ["bell_R", "wind", "bell_L"].map((name) => source(name));
const pair: Pair = { name: "bell", left: "source:bell_L", right: "source:bell_R", merged: false };
const names = (filter: string) =>
  arrange(sources, [pair], filter).map((row) => `${row.source.name} ${row.place}`);

it("puts the right of a pair under its left", () => {
  expect(names("")).toEqual(["bell_L first", "bell_R last", "wind null"]);
});

it("filters by any part of the file's name, and takes brackets off broken pairs", () => {
  expect(names("WIND")).toEqual(["wind null"]);
  expect(names("_r")).toEqual(["bell_R null"]);
  expect(names("gull")).toEqual([]);
});

it("selects one, several, and a stretch", () => {
  const rows = arrange(sources, [pair], "");
  const none = { ctrlKey: false, metaKey: false, shiftKey: false };
  expect(select(rows, ["source:wind"], 0, 1, none)).toEqual(["source:bell_R"]);
  expect(select(rows, ["source:wind"], 0, 1, { ...none, ctrlKey: true })).toEqual([
    "source:wind",
    "source:bell_R",
  ]);
  expect(select(rows, ["source:wind"], 0, 2, { ...none, metaKey: true })).toEqual([]);
  expect(select(rows, [], 0, 2, { ...none, shiftKey: true })).toHaveLength(3);
  expect(select(rows, ["x"], 0, 9, none)).toEqual(["x"]);
});
