import { fireEvent, screen } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { findingOf, job, source, splitStep } from "../../api/testing";
import { show } from "../../shared/testing";
import { SourcePanel } from "./SourcePanel";

function panel(more: Parameters<typeof source>[2]) {
  const shown = source("gull", 2, more);
  const calls = {
    onSteps: vi.fn(),
    onArchive: vi.fn(),
    onPair: vi.fn(),
    onDelete: vi.fn(),
    onReplace: vi.fn(),
    onNote: vi.fn(() => Promise.resolve()),
    onCopy: vi.fn(),
  };
  vi.stubGlobal("fetch", () => new Promise(() => {}));
  const drawn = (one: typeof shown) => (
    <SourcePanel job={job([], { sources: [one] })} source={one} {...calls} />
  );
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
  const { onDelete } = panel({ archived: true });
  fireEvent.click(screen.getByRole("button", { name: "Delete permanently" }));
  expect(onDelete).not.toHaveBeenCalled();
  fireEvent.click(await screen.findByRole("button", { name: "Delete" }));
  expect(onDelete).toHaveBeenCalledWith("gull");
});

it("lets a newer version take the place of a file that lines use, where it is alike", () => {
  const gull = source("gull", 2);
  const others = [source("gull-2", 2), source("foot", 1), source("far", 2, { rate: 44_100 })];
  const onReplace = vi.fn();
  const calls = {
    onSteps: vi.fn(),
    onArchive: vi.fn(),
    onPair: vi.fn(),
    onDelete: vi.fn(),
    onNote: vi.fn(),
    onCopy: vi.fn(),
    onReplace,
  };
  vi.stubGlobal("fetch", () => new Promise(() => {}));
  const draw = (steps: ReturnType<typeof splitStep>[]) => (
    <SourcePanel job={job(steps, { sources: [gull, ...others] })} source={gull} {...calls} />
  );
  const { again } = show(draw([]));
  expect(screen.queryByLabelText("Replace in all lines by")).toBeNull();
  again(draw([splitStep({ inputs: ["source:gull"] })]));
  const field = screen.getByLabelText("Replace in all lines by") as HTMLSelectElement;
  expect([...field.options].map((option) => option.text)).toEqual(["choose a newer version…", "gull-2"]);
  fireEvent.change(field, { target: { value: "gull-2" } });
  expect(onReplace).toHaveBeenCalledWith("gull", "gull-2");
});

it("tells of files with the same samples, and archives this one", () => {
  const one = source("one", 2, { same_as: ["source:two"] });
  const onArchive = vi.fn();
  vi.stubGlobal("fetch", () => new Promise(() => {}));
  const calls = {
    onSteps: vi.fn(),
    onPair: vi.fn(),
    onDelete: vi.fn(),
    onReplace: vi.fn(),
    onNote: vi.fn(),
    onCopy: vi.fn(),
  };
  const draw = (two: ReturnType<typeof source>) => (
    <SourcePanel job={job([], { sources: [one, two] })} source={one} onArchive={onArchive} {...calls} />
  );
  const { again } = show(draw(source("two", 2)));
  expect(screen.getByText("Identical to two, sample for sample.")).toBeTruthy();
  fireEvent.click(screen.getByText("archive this file"));
  expect(onArchive.mock.calls).toEqual([[["source:one"], true]]);
  again(draw(source("two", 2, { archived: true })));
  expect(screen.queryByTestId("same-samples")).toBeNull();
});

it("keeps a note when its field is left, and only a changed one", () => {
  const { onNote } = panel({ note: "hum" });
  const field = screen.getByLabelText("Note");
  fireEvent.blur(field);
  expect(onNote).not.toHaveBeenCalled();
  fireEvent.change(field, { target: { value: "hum at 50 Hz" } });
  fireEvent.blur(field);
  expect(onNote.mock.calls).toEqual([["gull", "hum at 50 Hz", "hum"]]);
});

it("shows a note that another window writes, and writes over it only where that was seen", () => {
  const { onNote, become } = panel({ note: "hum" });
  const field = () => screen.getByLabelText("Note") as HTMLTextAreaElement;
  fireEvent.focus(field());
  become({ note: "hum, gone after 0:12" });
  expect(field().value).toBe("hum, gone after 0:12");
  fireEvent.blur(field());
  expect(onNote).not.toHaveBeenCalled();
  fireEvent.change(field(), { target: { value: "clicks" } });
  become({ note: "wind" });
  expect(field().value).toBe("clicks");
  expect(screen.getByText(/Changed in another window to “wind”/)).toBeTruthy();
  fireEvent.blur(field());
  fireEvent.click(screen.getByText("Keep mine"));
  expect(onNote.mock.calls).toEqual([
    ["gull", "clicks", "hum, gone after 0:12"],
    ["gull", "clicks", "wind"],
  ]);
  fireEvent.click(screen.getByText("Use theirs"));
  expect(field().value).toBe("wind");
});
