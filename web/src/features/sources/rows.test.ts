import { expect, it } from "vitest";
import { findingOf, group, mergeStep, source, splitStep } from "../../api/testing";
import { arrange, facets, offered, type Sort, select } from "./rows";

const sources = ["bell_R", "wind", "bell_L"].map((name) => source(name));
const pair = group("bell", ["source:bell_L", "source:bell_R"]);
const job = { sources, groups: [pair], unclear: [], steps: [] };
const names = (filter: string, sort: Sort = "came", of = job) =>
  arrange(of, { filter, facet: null, sort }).map((row) => `${row.source.name} ${row.place}`);

it("puts the members of a group together, in channel order, where the first of them came", () => {
  expect(names("")).toEqual(["bell_L first", "bell_R last", "wind null"]);
  const members = ["FL", "FR", "BL"].map((mark) => `source:${mark}`);
  const many = {
    ...job,
    sources: ["BL", "FL", "FR"].map((mark) => source(mark)),
    groups: [group("q", members)],
  };
  expect(names("", "came", many)).toEqual(["FL first", "FR middle", "BL last"]);
});

it("filters by any part of the file's name or folder, and takes brackets off broken groups", () => {
  expect(names("WIND")).toEqual(["wind null"]);
  expect(names("_r")).toEqual(["bell_R null"]);
  expect(names("gull")).toEqual([]);
  const inFolder = { ...job, sources: [source("a", 1, { folder: "day 2/rolls" })] };
  expect(names("day 2", "came", inFolder)).toEqual(["a null"]);
});

it("filters by what a file says about its recording", () => {
  const recorded = { ...source("a").recorded, scene: "12A", take: "3", tape: "K0914", note: "windy" };
  const of = {
    ...job,
    groups: [],
    sources: [source("poly", 2, { recorded, labels: ["boom", "bell buoy"], frame_rate: "25" }), source("b")],
  };
  for (const found of ["scene 12a", "take 3", "k0914", "windy", "bell buoy", "25 fps"])
    expect(names(found, "came", of)).toEqual(["poly null"]);
  expect(names("scene 3", "came", of)).toEqual([]);
});

it("sorts, and leaves what was archived out until it is asked for", () => {
  expect(names("", "name").at(-1)).toBe("wind null");
  const mixed = {
    ...job,
    groups: [],
    sources: [source("quiet", 1, { loudness: -40 }), source("old", 1, { archived: true }), source("loud")],
  };
  expect(names("", "loudness", mixed)).toEqual(["loud null", "quiet null"]);
  const archived = facets(mixed).find((facet) => facet.id === "archived");
  expect(arrange(mixed, { filter: "", facet: archived ?? null, sort: "came" })).toHaveLength(1);
});

it("selects one, several, and a stretch", () => {
  const rows = arrange(job, { filter: "", facet: null, sort: "came" });
  const none = { ctrlKey: false, metaKey: false, shiftKey: false };
  expect(select(rows, ["source:wind"], null, 1, none)).toEqual(["source:bell_R"]);
  expect(select(rows, ["source:wind"], null, 1, { ...none, ctrlKey: true })).toEqual([
    "source:wind",
    "source:bell_R",
  ]);
  expect(select(rows, ["source:wind"], null, 2, { ...none, metaKey: true })).toEqual([]);
  expect(select(rows, [], "source:bell_R", 2, { ...none, shiftKey: true })).toEqual([
    "source:bell_R",
    "source:wind",
  ]);
  const sorted = [...rows].reverse();
  expect(select(sorted, [], "source:wind", 1, { ...none, shiftKey: true })).toEqual([
    "source:wind",
    "source:bell_R",
  ]);
  expect(select(rows, ["x"], null, 9, none)).toEqual(["x"]);
});

it("offers a group's turn before that of a finding, and nothing twice", () => {
  const dualMono = { ...findingOf("mono"), remedy: { label: "fold", turn: { kind: "fold" }, names: ["a"] } };
  const [first, , alone] = arrange(
    {
      ...job,
      sources: [
        ...sources.slice(0, 1),
        ...sources.slice(2),
        source("winch", 2, { findings: [dualMono as never] }),
      ],
    },
    { filter: "", facet: null, sort: "came" },
  );
  if (!first || !alone) throw new Error("three rows");
  expect(offered(first)).toMatchObject({ turn: { kind: "merge" }, inputs: pair.members });
  expect(offered({ ...first, group: { ...pair, done: true } })).toBeNull();
  expect(offered(alone)).toMatchObject({
    turn: { kind: "fold" },
    inputs: ["source:winch"],
    names: ["a"],
    over: null,
  });
  expect(offered({ ...alone, source: { ...alone.source, archived: true } })).toBeNull();
});

it("offers for many what each of them offers, but not twice for what is in the worksheet already", () => {
  const remedy = {
    label: "fold to mono",
    turn: { kind: "fold", take: "left", law: "average", blend: 0.5 },
    names: ["a"],
  };
  const mono = (name: string) =>
    source(name, 2, {
      findings: [
        findingOf("dual-mono", { remedy: remedy as never }),
        findingOf("clipped"),
        findingOf("bits-used"),
      ],
    });
  const many = { ...job, sources: [...sources, mono("a"), mono("b")] };
  const all = facets(many);
  const of = (id: string) => all.find((facet) => facet.id === id);
  expect(of("stereo-pair")?.action?.label).toBe("merge 1 pair");
  expect(of("dual-mono")?.action?.steps.map((step) => step.inputs)).toEqual([["source:a"], ["source:b"]]);
  expect(of("dual-mono")?.label).toBe("Dual mono 2");
  expect(of("clipped")?.action).toBeNull();
  expect(of("bits-used")?.label).toBe("Unused bits 2");
  const done = { ...many, steps: [{ inputs: ["source:a"] }] as never };
  expect(facets(done).find((facet) => facet.id === "dual-mono")?.action?.label).toBe("fold to mono: 1 file");
});

it("says of a file which line was the first to use it", () => {
  const sources = [source("bell_L"), source("sea", 2), source("gull", 2)];
  const steps = [mergeStep({ inputs: ["source:bell_L"] }), splitStep(), splitStep({ id: "again" })];
  const rows = arrange({ sources, groups: [], steps }, { filter: "", facet: null, sort: "came" });
  expect(rows.map(({ source: { name }, line }) => [name, line])).toEqual([
    ["bell_L", 1],
    ["sea", 2],
    ["gull", null],
  ]);
});

it("finds duplicates, of which the first stays, and files by their notes", () => {
  const one = source("one", 2, { same_as: ["source:two"] });
  const two = source("two", 2, { same_as: ["source:one"], note: "Second mic" });
  const shown = { sources: [one, two, source("three")], groups: [], unclear: [], steps: [] };
  const found = facets(shown).find(({ id }) => id === "duplicates");
  expect(found).toMatchObject({ label: "Duplicates 1", refs: [one.ref, two.ref], spare: [two.ref] });
  const rows = arrange(shown, { filter: "second m", facet: null, sort: "came" });
  expect(rows.map((row) => row.source.name)).toEqual(["two"]);
  const apart = { ...shown, sources: [one, { ...two, archived: true }] };
  expect(facets(apart).some(({ id }) => id === "duplicates")).toBe(false);
});
