import { fireEvent, screen } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { clip, findingOf, job, mergeStep, proof, splitStep } from "../../api/testing";
import { show } from "../../shared/testing";
import { Worksheet } from "./Worksheet";

function sheet(selected: string | null, steps = [mergeStep(), splitStep()]) {
  const handlers = { onSelect: vi.fn(), onInput: vi.fn(), onDownload: vi.fn() };
  const lines = selected === null ? [] : [selected];
  show(
    <Worksheet job={job(steps)} current={selected} selected={lines} preview={null} {...handlers} share={42}>
      {null}
    </Worksheet>,
  );
  return { ...handlers, list: screen.getByRole("listbox") };
}

it("reads like sentences", () => {
  sheet(null);
  const lines = screen.getAllByRole("option").map((line) => line.textContent);
  expect(lines).toEqual([
    "1bell_L+bell_Rmerge→bellexactBit-exact; not delivered yet",
    "2seasplit→_L_RexactBit-exact; not delivered yet",
  ]);
});

it("says what is proved, what is left over, and what was noticed", () => {
  const findings = [findingOf("x", { message: "Look here." })];
  sheet(null, [
    mergeStep({ id: "a", proof: proof() }),
    mergeStep({ id: "b", proof: proof({ exact: false, residual_dbfs: -90.3 }) }),
    mergeStep({ id: "c", findings }),
  ]);
  const [a, b, c] = screen.getAllByRole("option");
  expect(a?.textContent).toContain("deliveredAll came back.");
  expect(b?.textContent).toContain("deliveredAll came back.");
  expect(c?.textContent).toContain("1 warning");
  expect(c?.querySelector("[title='Look here.']")).toBeTruthy();
});

it("says in a word what a line has not been proved to be, or is no more", () => {
  sheet(null, [
    mergeStep({ id: "a", exact: false }),
    mergeStep({ id: "b", delivered: { at: "2026-09-14T19:42:00Z", changed: true } as never }),
  ]);
  const [a, b] = screen.getAllByRole("option");
  expect(a?.textContent).toContain("roundedNot bit-exact; not delivered yet");
  expect(b?.textContent).toContain("changedChanged since delivery");
});

it("downloads a line without choosing it", () => {
  const { onDownload, onSelect } = sheet(null);
  fireEvent.click(screen.getAllByTestId("download")[1] as HTMLElement);
  expect(onDownload).toHaveBeenCalledExactlyOnceWith("s");
  expect(onSelect).not.toHaveBeenCalled();
});

it("names the first of many inputs and counts the others", () => {
  const inputs = ["source:bell_L", "source:bell_R", "source:sea", "source:bell_L"];
  sheet(null, [mergeStep({ inputs })]);
  expect(screen.getByRole("option").textContent).toContain("1bell_L+ 3merge");
});

it("does not run over with many results", () => {
  const outputs = Array.from({ length: 9 }, (_, n) => clip(`ch${n}`, 1, { ref: `step:s:${n}` }));
  sheet(null, [splitStep({ outputs })]);
  expect(screen.getByRole("option").textContent).toContain("and 7 more");
});

it("moves with the arrow keys, and leaves those that move or remove a line to the page", () => {
  const { list, onSelect } = sheet("m");
  fireEvent.keyDown(list, { key: "ArrowDown" });
  expect(onSelect.mock.calls[0]?.[0]).toBe("s");
  for (const key of [{ key: "ArrowDown", altKey: true }, { key: "Delete" }])
    expect(fireEvent.keyDown(list, key), "nothing is prevented").toBe(true);
  expect(onSelect).toHaveBeenCalledOnce();
});

it("shows a line that is only tried as a preview: without a number, and nothing is claimed of it", () => {
  show(
    <Worksheet
      job={job([mergeStep(), splitStep()])}
      current="s"
      selected={[]}
      preview="s"
      onSelect={vi.fn()}
      onInput={vi.fn()}
      onDownload={vi.fn()}
      share={42}
    >
      {null}
    </Worksheet>,
  );
  expect(screen.getAllByRole("option").map((line) => line.textContent)[1]).toBe("seasplit→_L_RPreview");
});

it("says why a worksheet cannot be shown, and what to do", () => {
  show(
    <Worksheet
      share={42}
      job={job([], { problem: "Revision 3 of the worksheet cannot be read by this version" })}
      current={null}
      selected={[]}
      onSelect={vi.fn()}
      preview={null}
      onInput={vi.fn()}
      onDownload={vi.fn()}
    >
      {null}
    </Worksheet>,
  );
  expect(screen.getByRole("alert").textContent).toContain("Revision 3 of the worksheet cannot be read");
  expect(screen.getByRole("alert").textContent).toContain("Undo, or restore an earlier version");
});

it("says what a line waits for, and whose result a line takes that waits as well", () => {
  const lost = mergeStep({ inputs: ["source:bell_L", "lost:bell_R"], outputs: [], waits_for: "bell_R" });
  const below = splitStep({ inputs: ["step:m:0"], outputs: [], waits_for: "bell_R" });
  sheet(null, [lost, below]);
  expect(screen.getAllByRole("option").map((line) => line.textContent)).toEqual([
    "1bell_L+bell_R?merge→needs bell_R",
    "2line 1split→needs bell_R",
  ]);
});

it("names a result that a line doesn't make any more as missing", () => {
  const above = mergeStep({});
  const below = splitStep({ inputs: ["step:m:1"], outputs: [], waits_for: "result 2 of line 1" });
  sheet(null, [above, below]);
  expect(screen.getAllByRole("option")[1]?.textContent).toBe(
    "2result 2 of line 1?split→needs result 2 of line 1",
  );
});

it("takes a clip that is dropped on an input in its place, and nothing else", () => {
  const { onInput } = sheet(null);
  const chip = screen.getByText("bell_R").closest("[draggable], div") as Element;
  const carrying = (types: string[]) => ({
    dataTransfer: { types, getData: () => (types[0] ? "source:sea" : "") },
  });
  fireEvent.drop(chip, carrying([]));
  expect(onInput).not.toHaveBeenCalled();
  fireEvent.drop(chip, carrying(["application/x-wedge-turn-clip"]));
  expect(onInput.mock.calls.map(([step, input, ref]) => [step.id, input, ref])).toEqual([
    ["m", 1, "source:sea"],
  ]);
});
