import { expect, it } from "vitest";
import { clip, source, splitStep } from "../api/testing";
import { filmOf } from "./filmOf";

const film = source("film", 2, { recorded: { ...source("a").recorded, picture: true } });
const plain = source("plain", 2);
const trim = splitStep({
  id: "t",
  inputs: [film.ref],
  outputs: [clip("film", 2, { ref: "step:t:0" })],
  begins_at: 96_000,
});
const swap = splitStep({ id: "s", inputs: ["step:t:0"], outputs: [clip("film", 2, { ref: "step:s:0" })] });
const job = { id: "j", sources: [film, plain], steps: [trim, swap] } as never;

it("finds the film that a sound is from, through the lines that made it, from where they begin", () => {
  expect(filmOf(job, [film.ref])).toMatchObject({ source: "film", later: 0 });
  expect(filmOf(job, ["step:s:0"])).toMatchObject({ source: "film", later: 2 });
});

it("shows none beside sound of no film, or of several", () => {
  expect(filmOf(job, [plain.ref])).toBeNull();
  expect(filmOf(job, [film.ref, plain.ref])).toBeNull();
  expect(filmOf(job, [])).toBeNull();
  expect(filmOf(job, ["lost:gone"])).toBeNull();
});
