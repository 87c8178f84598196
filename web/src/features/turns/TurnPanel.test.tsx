import { fireEvent, screen, within } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import type { Step } from "../../api/client";
import { clip, findingOf, mergeStep, proof, splitStep } from "../../api/testing";
import { show } from "../../shared/testing";
import { TurnPanel } from "./TurnPanel";

const NAMES = new Map([
  ["source:bell_L", "bell_L"],
  ["source:bell_R", "bell_R"],
  ["source:other", "bell_L"],
]);

function panel(step: Step) {
  const handlers = { onChange: vi.fn(), onSteps: vi.fn() };
  const choices = () => [clip("bell_L"), clip("bell_R"), clip("other"), clip("sea", 2)];
  const drawn = (one: Step) => (
    <TurnPanel step={one} names={NAMES} choices={choices} menu={null} {...handlers} />
  );
  const shown = show(drawn(step));
  return { ...handlers, again: (one: Step) => shown.again(drawn(one)) };
}

it("says what is done, which file is on which side, and what was noticed", () => {
  panel(mergeStep({ findings: [findingOf("length-differs", { message: "bell_R is shorter." })] }));
  expect(screen.getByText("bell_L goes fully left and bell_R fully right.")).toBeTruthy();
  expect(screen.getByTestId("side-L").textContent).toContain("bell_L");
  expect(screen.getByTestId("side-R").textContent).toContain("bell_R");
  expect(screen.getByTestId("finding-length-differs").textContent).toBe("bell_R is shorter.");
});

it("exchanges the sides by turning the inputs round and taking them as given", () => {
  const { onChange } = panel(mergeStep());
  fireEvent.click(screen.getByText("Swap L/R"));
  const change = onChange.mock.calls[0]?.[0];
  expect(change.inputs).toEqual(["source:bell_R", "source:bell_L"]);
  expect(change.turn.order).toBe("given");
});

it("exchanges them back from any order of the inputs", () => {
  const turned = mergeStep({
    inputs: ["source:bell_R", "source:bell_L"],
    turn: { kind: "merge", order: "by-name", line_up: "recorded", length: "pad", layout: "auto" },
  });
  const { onChange } = panel(turned);
  fireEvent.click(screen.getByText("Swap L/R"));
  expect(onChange.mock.calls[0]?.[0].inputs).toEqual(["source:bell_R", "source:bell_L"]);
});

it("exchanges them back before the core has answered", () => {
  const { turn } = mergeStep();
  const { onChange } = panel(
    mergeStep({
      inputs: ["source:bell_R", "source:bell_L"],
      turn: { ...turn, order: "given" } as typeof turn,
    }),
  );
  expect(screen.getByTestId("side-L").textContent).toContain("bell_R");
  fireEvent.click(screen.getByText("Swap L/R"));
  expect(onChange.mock.calls[0]?.[0].inputs).toEqual(["source:bell_L", "source:bell_R"]);
});

it("exchanges two files of one name", () => {
  const { turn } = mergeStep();
  const { onChange } = panel(
    mergeStep({
      inputs: ["source:bell_L", "source:other"],
      turn: { ...turn, order: "given" } as typeof turn,
    }),
  );
  fireEvent.click(screen.getByText("Swap L/R"));
  expect(onChange.mock.calls[0]?.[0].inputs).toEqual(["source:other", "source:bell_L"]);
});

it("changes one setting and leaves the others", () => {
  const { onChange } = panel(mergeStep());
  fireEvent.change(screen.getByLabelText("Different lengths"), { target: { value: "trim" } });
  expect(onChange).toHaveBeenCalledWith({ turn: { ...mergeStep().turn, length: "trim" } });
});

it("takes a name when it is left, and gives it up on Escape or when it is empty", () => {
  const { onChange } = panel(splitStep());
  const field = screen.getByLabelText("Output name 2") as HTMLInputElement;
  fireEvent.change(field, { target: { value: "far" } });
  expect(onChange).not.toHaveBeenCalled();
  fireEvent.blur(field);
  expect(onChange).toHaveBeenCalledWith({ names: ["sea_L", "far"] });
  fireEvent.change(field, { target: { value: "  " } });
  fireEvent.blur(field);
  expect(field.value).toBe("sea_R");
  expect(onChange).toHaveBeenCalledTimes(1);
});

it("changes an ending", () => {
  const { onChange } = panel(splitStep());
  fireEvent.change(screen.getByLabelText("Suffix of left"), { target: { value: ".l" } });
  fireEvent.blur(screen.getByLabelText("Suffix of left"));
  expect(onChange).toHaveBeenCalledWith({ turn: { kind: "split", endings: [".l", "_R"], parts: [] } });
});

it("claims before a delivery, and shows what was measured after it", () => {
  const { again } = panel(mergeStep());
  const card = () => within(screen.getByTestId("proof"));
  expect(screen.getByTestId("proof").title).toContain("converted back and compared with the originals");
  expect(card().getByText("Bit-exact (24-bit)")).toBeTruthy();
  again(mergeStep({ proof: proof() }));
  expect(card().getByText("Bit-identical (24-bit)")).toBeTruthy();
  expect(screen.getByTestId("proof").title).toBe("Measured on the written files");
  again(
    mergeStep({
      proof: proof({ exact: false, residual_dbfs: -96.3, statement: "Some are not." }),
    }),
  );
  expect(card().getByText("Proved, rounded (24-bit)")).toBeTruthy();
});

it("offers other inputs that fit, and asks for one that is missing at once", () => {
  const { again, onChange } = panel(mergeStep());
  expect(screen.queryByLabelText("Input 2")).toBeNull();
  fireEvent.click(screen.getByText("Change inputs…"));
  expect(
    [...(screen.getByLabelText("Input 2") as HTMLSelectElement).options].map(({ text }) => text),
  ).toEqual(["bell_L", "bell_R", "other"]);
  again(mergeStep({ id: "w", inputs: ["source:bell_L", "lost:gone"], outputs: [], waits_for: "gone" }));
  fireEvent.change(screen.getByLabelText("Input 2"), { target: { value: "source:other" } });
  expect(onChange).toHaveBeenCalledWith({ inputs: ["source:bell_L", "source:other"] });
});

it("exchanges the sides of two files of one name at the first click", () => {
  const alike = mergeStep({ inputs: ["source:bell_L", "source:other"], carries: [[["bell_L"], ["bell_L"]]] });
  const { onChange } = panel(alike);
  fireEvent.click(screen.getByText("Swap L/R"));
  expect(onChange.mock.calls[0]?.[0].inputs).toEqual(["source:other", "source:bell_L"]);
});

it("says nothing is measured of many results together, rather than measuring for ever", () => {
  const results = (count: number) => Array.from({ length: count }, (_, n) => clip(`part ${n}`));
  const { again } = panel(splitStep({ outputs: results(2) }));
  const last = () =>
    [...screen.getByRole("table", { name: "Before and after" }).querySelectorAll("tbody tr")].map(
      (row) => row.lastElementChild?.textContent,
    );
  expect(new Set(last())).toEqual(new Set(["…"]));
  again(splitStep({ outputs: results(6) }));
  expect(new Set(last())).toEqual(new Set(["–"]));
});
