import { fireEvent, screen } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { clip, findingOf, job, mergeStep, proof, splitStep } from "../../api/testing";
import { show } from "../../shared/testing";
import { Worksheet } from "./Worksheet";

function sheet(selected: string | null, steps = [mergeStep(), splitStep()]) {
  const onSelect = vi.fn();
  const onRemove = vi.fn();
  show(
    <Worksheet job={job(steps)} selected={selected} onSelect={onSelect} onRemove={onRemove} share={42}>
      {null}
    </Worksheet>,
  );
  return { onSelect, onRemove, list: screen.getByRole("listbox") };
}

it("reads like sentences", () => {
  sheet(null);
  const lines = screen.getAllByRole("option").map((line) => line.textContent);
  expect(lines).toEqual([
    "1bell_L+bell_Rmerge→bellbit-exact, not delivered yet",
    "2seasplit→_L_Rbit-exact, not delivered yet",
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
  expect(a?.textContent).toContain("bit-identical");
  expect(b?.textContent).toContain("residue −90.3 dBFS");
  expect(c?.querySelector("[title='Look here.']")).toBeTruthy();
});

it("does not run over with many results", () => {
  const outputs = Array.from({ length: 9 }, (_, n) => clip(`ch${n}`, 1, { ref: `step:s:${n}` }));
  sheet(null, [splitStep({ outputs })]);
  expect(screen.getByRole("option").textContent).toContain("and 7 more");
});

it("moves with the arrow keys, stops at the ends, and takes out with Delete", () => {
  const { list, onSelect, onRemove } = sheet("m");
  fireEvent.keyDown(list, { key: "ArrowDown" });
  fireEvent.keyDown(list, { key: "ArrowUp" });
  fireEvent.keyDown(list, { key: "Delete" });
  expect(onSelect.mock.calls).toEqual([["s"], ["m"]]);
  expect(onRemove).toHaveBeenCalledWith("m");
});

it("chooses by a click", () => {
  const { onSelect } = sheet(null);
  fireEvent.click(screen.getAllByRole("option")[1] as Element);
  expect(onSelect).toHaveBeenCalledWith("s");
});

it("says why a worksheet cannot be shown, and what to do", () => {
  show(
    <Worksheet
      share={42}
      job={job([], { problem: "Revision 3 of the worksheet cannot be read by this version" })}
      selected={null}
      onSelect={vi.fn()}
      onRemove={vi.fn()}
    >
      {null}
    </Worksheet>,
  );
  expect(screen.getByRole("alert").textContent).toContain("Revision 3 of the worksheet cannot be read");
  expect(screen.getByRole("alert").textContent).toContain("Undo, or choose an earlier revision");
});
