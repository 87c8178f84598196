import { fireEvent, screen } from "@testing-library/react";
import { beforeEach, expect, it, vi } from "vitest";
import type { Job, Source, Step } from "../../api/client";
import { findingOf, job, source, splitStep } from "../../api/testing";
import { show } from "../../shared/testing";
import { SourcePanel } from "./SourcePanel";

const actions = () => ({
  chooseFiles: vi.fn(),
  filter: vi.fn(),
  add: vi.fn(),
  archive: vi.fn(),
  archiveChosen: vi.fn(),
  do: vi.fn(),
  edit: vi.fn(() => Promise.resolve(job([]))),
  startCopy: vi.fn(),
});

const panelOf = (shown: Job, one: Source, calls = actions()) => (
  <SourcePanel job={shown} source={one} chosen={[one.id]} actions={calls} />
);

beforeEach(() => vi.stubGlobal("fetch", () => new Promise(() => {})));

function panel(more: Parameters<typeof source>[2]) {
  const shown = source("gull", 2, more);
  const calls = actions();
  const drawn = (one: typeof shown) => panelOf(job([], { sources: [one] }), one, calls);
  const { again } = show(drawn(shown));
  return { ...calls, become: (now: Parameters<typeof source>[2]) => again(drawn(source("gull", 2, now))) };
}

it("says why a file cannot be used, beside what was found about it before", () => {
  panel({ problem: "gull.wav is missing from the data folder", findings: [findingOf("delay")] });
  expect(screen.getByRole("alert").textContent).toBe("gull.wav is missing from the data folder");
  expect(screen.getByText("About delay.")).toBeTruthy();
});

it("deletes for good only what was put aside, and only after asking", async () => {
  panel({});
  expect(screen.queryByRole("button", { name: "Delete permanently" })).toBeNull();
  const calls = panel({ archived: true });
  fireEvent.click(screen.getByRole("button", { name: "Delete permanently" }));
  expect(calls.do).not.toHaveBeenCalled();
  fireEvent.click(await screen.findByRole("button", { name: "Delete" }));
  expect(calls.do).toHaveBeenCalledWith({ kind: "deleteSource", source: "gull" });
});

it("lets a newer version take the place of a file that lines use, where it is alike", () => {
  const gull = source("gull", 2);
  const others = [source("gull-2", 2), source("foot", 1), source("far", 2, { rate: 44_100 })];
  const calls = actions();
  const draw = (steps: Step[]) => panelOf(job(steps, { sources: [gull, ...others] }), gull, calls);
  const { again } = show(draw([]));
  expect(screen.queryByLabelText("Replace in all lines with")).toBeNull();
  again(draw([splitStep({ inputs: ["source:gull"] })]));
  const field = screen.getByLabelText("Replace in all lines with") as HTMLSelectElement;
  expect([...field.options].map((option) => option.text)).toEqual(["Choose a newer version…", "gull-2"]);
  fireEvent.change(field, { target: { value: "gull-2" } });
  expect(calls.do).toHaveBeenCalledWith({ kind: "replaceSource", source: "gull", by: "gull-2" });
});

it("tells of files with the same samples, and archives this one", () => {
  const one = source("one", 2, { same_as: ["source:two"] });
  const calls = actions();
  const draw = (two: Source) => panelOf(job([], { sources: [one, two] }), one, calls);
  const { again } = show(draw(source("two", 2)));
  expect(screen.getByText("Identical to two, sample for sample.")).toBeTruthy();
  fireEvent.click(screen.getByText("Archive this file"));
  expect(calls.archive.mock.calls).toEqual([[["source:one"], true]]);
  again(draw(source("two", 2, { archived: true })));
  expect(screen.queryByTestId("same-samples")).toBeNull();
});

const note = (text: string, was: string) => ({ kind: "note", source: "gull", note: text, was });

it("keeps a note when its field is left, and only a changed one", () => {
  const { edit } = panel({ note: "hum" });
  const field = screen.getByLabelText("Note");
  fireEvent.blur(field);
  expect(edit).not.toHaveBeenCalled();
  fireEvent.change(field, { target: { value: "hum at 50 Hz" } });
  fireEvent.blur(field);
  expect(edit.mock.calls).toEqual([[note("hum at 50 Hz", "hum")]]);
});

it("shows a note that another window writes, and writes over it only where that was seen", () => {
  const { edit, become } = panel({ note: "hum" });
  const field = () => screen.getByLabelText("Note") as HTMLTextAreaElement;
  fireEvent.focus(field());
  become({ note: "hum, gone after 0:12" });
  expect(field().value).toBe("hum, gone after 0:12");
  fireEvent.blur(field());
  expect(edit).not.toHaveBeenCalled();
  fireEvent.change(field(), { target: { value: "clicks" } });
  become({ note: "wind" });
  expect(field().value).toBe("clicks");
  expect(screen.getByText(/Changed in another window to “wind”/)).toBeTruthy();
  fireEvent.blur(field());
  fireEvent.click(screen.getByText("Keep mine"));
  expect(edit.mock.calls).toEqual([[note("clicks", "hum, gone after 0:12")], [note("clicks", "wind")]]);
  fireEvent.click(screen.getByText("Use theirs"));
  expect(field().value).toBe("wind");
});
