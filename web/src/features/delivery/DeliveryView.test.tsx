import { act, cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { client } from "../../api/client";
import { clip, job, mergeStep, source, splitStep } from "../../api/testing";
import type { KeptChoice } from "./DeliveryView";
import { DEFAULTS } from "./settings";
import { planned, planOf, view } from "./testing";

const RANGE = { kind: "trim", start: 36_001, end: 36_003, time: "recorded" } as const;

it("teaches what to do where nothing can be delivered", () => {
  view(job([], { sources: [] }));
  expect(screen.getByText("Nothing to deliver yet")).toBeTruthy();
});

it("takes along the files that no line uses, where that is wanted", async () => {
  const { ordered } = view(job([mergeStep()]));
  fireEvent.click(screen.getByLabelText("Include 1 file not used by any line, copied byte for byte"));
  fireEvent.click(await screen.findByRole("button", { name: "Deliver 2 files" }));
  await waitFor(() => expect(ordered()).toMatchObject({ refs: ["step:m:0"], rest: true }));
});

it("takes along single files that no line uses", async () => {
  const sources = ["lamp", "bell"].map((name) => source(name, 1));
  const { ordered } = view(job([mergeStep({ inputs: ["source:x"] })], { sources }));
  fireEvent.click(screen.getByRole("button", { name: "Choose…" }));
  await act(async () => screen.getByLabelText("bell.wav").click());
  expect(screen.getByText("1 chosen")).toBeTruthy();
  fireEvent.click(await screen.findByRole("button", { name: "Deliver 2 files" }));
  await waitFor(() =>
    expect(ordered()).toMatchObject({ refs: ["step:m:0"], copies: ["source:bell"], rest: false }),
  );
});

it("delivers what nobody goes on with, at the revision that is shown", async () => {
  const { ordered } = view(job([mergeStep(), splitStep()], { ends: ["step:s:0", "step:s:1"], head: "r4" }));
  expect((screen.getByLabelText("Deliver bell") as HTMLInputElement).checked).toBe(false);
  fireEvent.click(screen.getByRole("button", { name: "Deliver 2 files" }));
  await waitFor(() =>
    expect(ordered()).toEqual({
      ...DEFAULTS,
      copies: [],
      refs: ["step:s:0", "step:s:1"],
      range: null,
      to: null,
      revision: "r4",
    }),
  );
});

it("delivers what is chosen, as it is chosen", async () => {
  const { ordered } = view(job([mergeStep(), splitStep()], { ends: ["step:s:0", "step:s:1"] }));
  await act(async () => screen.getByLabelText("Deliver bell").click());
  await act(async () => screen.getByLabelText("Deliver sea_R").click());
  fireEvent.change(screen.getByLabelText("Bit depth"), { target: { value: "16" } });
  await act(async () => screen.getByLabelText("Dither").click());
  fireEvent.click(screen.getByRole("button", { name: "Deliver 2 files" }));
  await waitFor(() =>
    expect(ordered()).toEqual({
      ...DEFAULTS,
      copies: [],
      refs: ["step:m:0", "step:s:0"],
      depth: "16",
      dither: false,
      range: null,
      to: null,
      revision: "r",
    }),
  );
});

it("cannot deliver nothing", async () => {
  view(job([mergeStep()]));
  await act(async () => screen.getByLabelText("Deliver bell").click());
  expect((screen.getByRole("button", { name: "Deliver 0 files" }) as HTMLButtonElement).disabled).toBe(true);
});

it("waits for a change of the worksheet that is on its way", () => {
  const given = job([mergeStep()]);
  const { settle } = view(given, { changing: true });
  const deliver = () => screen.getByText(/^Deliver 1 file/).closest("button") as HTMLButtonElement;
  expect(deliver().disabled).toBe(true);
  settle();
  expect(deliver().disabled).toBe(false);
});

it("names files as the server will, with their depth and size", async () => {
  const { tell } = view(job([mergeStep()]));
  await tell(planOf(["step:m:0"]), [
    planned("step:m:0", { file: "bell 2.wav", depth: "32", bytes: 768_044 }),
  ]);
  const row = (await screen.findByText("bell 2.wav")).closest("[role=row]") as HTMLElement;
  expect(row.textContent).toContain("stereo · 48 kHz · 32-bit");
  expect(row.textContent).toContain("768");
});

it("keeps the selected range of every file, in its own time or by the clock", async () => {
  const selected = () => ({ start: 96_000, end: 144_000, rate: 48_000, startTime: 480_000 });
  const { onRange } = view(job([mergeStep()]), { selected });
  const choose = (value: string) =>
    fireEvent.change(screen.getByLabelText("Range of each file"), { target: { value } });
  choose("file");
  expect(onRange).toHaveBeenLastCalledWith({ kind: "trim", start: 2, end: 3, time: "file" });
  choose("recorded");
  expect(onRange).toHaveBeenLastCalledWith({ kind: "trim", start: 12, end: 13, time: "recorded" });
});

it("counts a range anew where another time is chosen, and takes what is typed", () => {
  const timed = mergeStep({ outputs: [clip("bell", 2, { ref: "step:m:0", start_time: 36_000 * 48_000 })] });
  const { onRange } = view(job([timed]), { range: RANGE });
  fireEvent.change(screen.getByLabelText("Range of each file"), { target: { value: "file" } });
  expect(onRange).toHaveBeenLastCalledWith({ ...RANGE, start: 1, end: 3, time: "file" });
  const from = screen.getByLabelText("Range from") as HTMLInputElement;
  expect(from.value).toBe("10:00:01.000");
  fireEvent.change(from, { target: { value: "10:00:00.5" } });
  fireEvent.blur(from);
  expect(onRange).toHaveBeenLastCalledWith({ ...RANGE, start: 36_000.5 });
  fireEvent.change(screen.getByLabelText("Range of each file"), { target: { value: "whole" } });
  expect(onRange).toHaveBeenLastCalledWith(null);
});

it("says which files have nothing in the range, and leaves them out", async () => {
  const { tell, ordered } = view(job([mergeStep(), splitStep()]), { range: RANGE });
  const refs = ["step:m:0", "step:s:0", "step:s:1"];
  await tell(planOf(refs, RANGE), [
    planned("step:m:0", { outside: "bell has no recorded start time" }),
    planned("step:s:0", { frames: 96_000, start_time: 36_001 * 48_000 }),
    planned("step:s:1", { outside: "sea_R has no recorded start time" }),
  ]);
  expect(await screen.findByText("bell has no recorded start time")).toBeTruthy();
  expect(screen.getByText("10:00:01.000").closest("[role=row]")?.textContent).toContain("2.00 s");
  expect((screen.getByRole("button", { name: "Deliver 3 files" }) as HTMLButtonElement).disabled).toBe(true);
  expect(screen.getByText("2 files can’t be delivered with these settings.")).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Skip them" }));
  fireEvent.click(screen.getByRole("button", { name: "Deliver 1 file" }));
  await waitFor(() =>
    expect(ordered()).toEqual({
      ...DEFAULTS,
      copies: [],
      refs: ["step:s:0"],
      range: RANGE,
      to: null,
      revision: "r",
    }),
  );
});

it("says which files a format can't hold, and leaves them out", async () => {
  const { tell } = view(job([mergeStep(), splitStep()], { ends: ["step:m:0", "step:s:0"] }));
  fireEvent.change(screen.getByLabelText("Format"), { target: { value: "flac" } });
  const key = planOf(["step:m:0", "step:s:0"]);
  await tell(
    [...key.slice(0, 3), { ...(key[3] as object), container: "flac" }],
    [
      planned("step:m:0", { file: "bell.flac", refused: "FLAC holds integers of up to 24 bits" }),
      planned("step:s:0", { file: "sea_L.flac", bytes: 96_044 }),
    ],
  );
  expect(await screen.findByText("FLAC holds integers of up to 24 bits")).toBeTruthy();
  expect(screen.getByText("up to 96 kB")).toBeTruthy();
  const deliver = () => screen.getByText(/^Deliver [0-9] files?/).closest("button") as HTMLButtonElement;
  expect(deliver().disabled).toBe(true);
  await act(async () => screen.getByText("Skip it").click());
  expect(deliver().textContent).toBe("Deliver 1 file");
});

it("builds a pattern for the names from its places, and delivers by it", async () => {
  const { ordered } = view(job([mergeStep()]));
  const field = screen.getByLabelText("File name pattern") as HTMLInputElement;
  fireEvent.change(field, { target: { value: "_{name}" } });
  field.setSelectionRange(0, 0);
  fireEvent.click(screen.getByText("{n:03}"));
  expect(field.value).toBe("{n:03}_{name}");
  fireEvent.change(screen.getByLabelText("Letter case"), { target: { value: "lower" } });
  fireEvent.change(screen.getByLabelText("Spaces in the names"), { target: { value: "underscore" } });
  fireEvent.click(screen.getByRole("button", { name: "Deliver 1 file" }));
  await waitFor(() =>
    expect(ordered()).toMatchObject({
      naming: { pattern: "{n:03}_{name}", case: "lower", spaces: "underscore" },
    }),
  );
});

it("says what would clip, and lowers it by lines of the worksheet that keep the balance of each result", async () => {
  const { tell, onAdd } = view(job([mergeStep(), splitStep()], { ends: ["step:s:0", "step:s:1"] }));
  await tell(planOf(["step:s:0", "step:s:1"]), [
    planned("step:s:0", { over_db: 2.34, lower_db: 2.4 }),
    planned("step:s:1", { lower_db: 2.4 }),
  ]);
  expect(await screen.findByText("1 file would clip, by up to 2.3 dB.")).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Lower 2 files by 2.4 dB" }));
  const level = (ref: string) => ({ turn: { kind: "level", gains_db: [-2.4] }, inputs: [ref], names: [] });
  expect(onAdd).toHaveBeenCalledWith([level("step:s:0"), level("step:s:1")]);
});

it("uses settings that were saved, and saves those that are chosen", async () => {
  const { tell, ordered } = view(job([mergeStep()]));
  const post = client.POST as unknown as ReturnType<typeof vi.fn>;
  await tell(["delivery-settings"], [{ id: "k", name: "Label", settings: { ...DEFAULTS, depth: "16" } }]);
  fireEvent.change(await screen.findByLabelText("Saved settings"), { target: { value: "k" } });
  expect((screen.getByLabelText("Bit depth") as HTMLSelectElement).value).toBe("16");
  fireEvent.change(screen.getByLabelText("Format"), { target: { value: "flac" } });
  expect((screen.getByLabelText("Saved settings") as HTMLSelectElement).value).toBe("");
  fireEvent.click(screen.getByRole("button", { name: "Save as…" }));
  const name = screen.getByLabelText("Name of the settings");
  fireEvent.change(name, { target: { value: "Archive" } });
  fireEvent.keyDown(name, { key: "Enter" });
  const settings = { ...DEFAULTS, depth: "16", container: "flac" };
  await waitFor(() =>
    expect(post).toHaveBeenCalledWith("/api/delivery-settings", { body: { name: "Archive", settings } }),
  );
  fireEvent.click(screen.getByRole("button", { name: "Deliver 1 file" }));
  await waitFor(() => expect(ordered()).toMatchObject({ depth: "16", container: "flac" }));
});

it("delivers to a folder on the server, where it offers one", async () => {
  const { tell, ordered } = view(job([mergeStep()], { name: "Lamp" }));
  expect(screen.queryByLabelText("Where the files go")).toBeNull();
  await tell(["delivery-folder"], { name: "Sessions", folders: ["Lamp"] });
  fireEvent.change(await screen.findByLabelText("Where the files go"), { target: { value: "folder" } });
  expect(screen.getByText("already exists: only changed files are replaced")).toBeTruthy();
  const folder = screen.getByLabelText("Folder on the server");
  fireEvent.change(folder, { target: { value: " " } });
  expect((screen.getByRole("button", { name: "Deliver 1 file" }) as HTMLButtonElement).disabled).toBe(true);
  fireEvent.change(folder, { target: { value: "Day 2" } });
  fireEvent.click(screen.getByRole("button", { name: "Deliver 1 file" }));
  await waitFor(() => expect(ordered()).toMatchObject({ to: "Day 2" }));
});

it("keeps what was chosen while the worksheet is looked at", async () => {
  const kept: KeptChoice[] = [];
  const sources = ["lamp", "sea"].map((name) => source(name, 1));
  const two = job([mergeStep()], { sources, ends: ["step:m:0"] });
  view(two, { onKeep: (choice) => void kept.push(choice) });
  fireEvent.change(screen.getByLabelText("Bit depth"), { target: { value: "16" } });
  fireEvent.click(screen.getByLabelText("Deliver bell"));
  fireEvent.click(screen.getByRole("button", { name: "Choose…" }));
  await act(async () => screen.getByLabelText("lamp.wav").click());
  cleanup();
  view(two, { kept: kept.at(-1) ?? null });
  expect((screen.getByLabelText("Bit depth") as HTMLSelectElement).value).toBe("16");
  expect((screen.getByLabelText("Deliver bell") as HTMLInputElement).checked).toBe(false);
  expect(screen.getByText("1 chosen")).toBeTruthy();
  cleanup();
  view(job([mergeStep(), splitStep()], { sources: two.sources }), { kept: kept.at(-1) ?? null });
  expect((screen.getByLabelText("Deliver bell") as HTMLInputElement).checked, "another worksheet").toBe(true);
});

it("keeps what was planned until what is chosen now is planned", async () => {
  const { tell } = view(job([mergeStep()]));
  await tell(planOf(["step:m:0"]), [
    planned("step:m:0", { file: "bell 7.wav", refused: "Too long for this format" }),
  ]);
  expect(await screen.findByText("bell 7.wav")).toBeTruthy();
  fireEvent.change(screen.getByLabelText("Bit depth"), { target: { value: "16" } });
  expect(screen.getByText("bell 7.wav")).toBeTruthy();
  expect((screen.getByRole("button", { name: "Deliver 1 file" }) as HTMLButtonElement).disabled).toBe(true);
});

it("asks before saved settings are deleted", async () => {
  const { tell } = view(job([mergeStep()]));
  const forget = vi.spyOn(client, "DELETE").mockImplementation((() => new Promise(() => {})) as never);
  await tell(["delivery-settings"], [{ id: "k", name: "Film", settings: DEFAULTS }]);
  fireEvent.click(await screen.findByLabelText("Delete the settings Film"));
  expect(forget).not.toHaveBeenCalled();
  fireEvent.click(await screen.findByRole("button", { name: "Delete" }));
  await waitFor(() => expect(forget).toHaveBeenCalledOnce());
});
