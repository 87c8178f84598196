import { act, fireEvent, screen } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import type { Clip } from "../../api/client";
import { clip } from "../../api/testing";
import { show } from "../../shared/testing";
import { AddTurn } from "./AddTurn";

/** The field in which a turn is added to what is chosen. */
function fieldFor(chosen: Clip[], onAdd = vi.fn(), onDone = () => screen.getByRole("combobox").blur()) {
  show(
    <AddTurn
      chosen={chosen}
      groups={[]}
      selected={() => null}
      input={() => {}}
      place={null}
      onClose={() => {}}
      onDone={onDone}
      recipes={[]}
      onRecipe={() => {}}
      onAdd={onAdd}
    />,
  );
  return screen.getByLabelText("Add a turn");
}

it("adds the turn whose name is typed, on Enter", () => {
  const onAdd = vi.fn();
  const field = fieldFor([clip("a", 1), clip("b", 1)], onAdd);
  fireEvent.focus(field);
  fireEvent.change(field, { target: { value: "spl" } });
  fireEvent.keyDown(field, { key: "Enter" });
  expect(onAdd).not.toHaveBeenCalled();
  fireEvent.change(field, { target: { value: "mer" } });
  fireEvent.keyDown(field, { key: "Enter" });
  expect(onAdd).toHaveBeenCalledOnce();
  expect(onAdd.mock.calls[0]?.[0][0].inputs).toEqual(["source:a", "source:b"]);
});

it("gives the focus back once a turn is added, or none is wanted", () => {
  const onDone = vi.fn();
  const field = fieldFor([clip("a", 2)], vi.fn(), onDone);
  for (const key of ["Enter", "Escape"]) {
    onDone.mockClear();
    fireEvent.focus(field);
    fireEvent.change(field, { target: { value: "swap" } });
    expect(onDone).not.toHaveBeenCalled();
    fireEvent.keyDown(field, { key });
    expect(onDone, key).toHaveBeenCalledOnce();
  }
});

it("never takes another turn for one that is refused by its own name", () => {
  const onAdd = vi.fn();
  const field = fieldFor([clip("sea", 2)], onAdd);
  fireEvent.focus(field);
  fireEvent.change(field, { target: { value: "sum" } });
  expect(screen.getAllByRole("option").map((one) => one.textContent)[0]).toContain("sum");
  fireEvent.keyDown(field, { key: "Enter" });
  expect(onAdd).not.toHaveBeenCalled();
});

it("says which turns there are where none is called so", () => {
  const field = fieldFor([clip("sea", 2)]);
  fireEvent.focus(field);
  fireEvent.change(field, { target: { value: "split night-ferry" } });
  expect(screen.getByRole("status").textContent).toContain(
    "Select files first, then type one of merge, split, swap",
  );
});

it("offers recipes by any word of their name, and by role", async () => {
  const onRecipe = vi.fn();
  const recipe = {
    id: "r1",
    name: "Drums narrow",
    created: "2026-09-14T19:42:10Z",
    roles: ["left", "right"],
    lines: ["merge"],
    problem: null,
  };
  const field = (chosen: Clip[]) => (
    <AddTurn
      chosen={chosen}
      groups={[]}
      selected={() => null}
      input={() => {}}
      place={null}
      recipes={[recipe, { ...recipe, id: "r2", name: "Narrow later", problem: "This version can't read it" }]}
      onRecipe={onRecipe}
      onAdd={() => {}}
      onClose={() => {}}
      onDone={() => {}}
    />
  );
  const { again } = show(field([]));
  fireEvent.focus(screen.getByRole("combobox"));
  fireEvent.change(screen.getByRole("combobox"), { target: { value: "narrow" } });
  const option = () => screen.getByRole("option", { name: /Drums narrow/ });
  expect(option().textContent).toContain("select files for left, right first");
  expect(screen.queryByText("Narrow later")).toBeNull();
  fireEvent.click(option());
  expect(onRecipe).not.toHaveBeenCalled();
  again(field([clip("kit_L"), clip("kit_R")]));
  expect(option().textContent).toContain("recipe for left, right");
  fireEvent.click(option());
  expect(onRecipe.mock.calls).toEqual([["r1"]]);
});

it("stays open where the next turn is added right after the last one", () => {
  vi.useFakeTimers();
  const field = fieldFor([clip("sea", 2)]);
  act(() => field.focus());
  fireEvent.change(field, { target: { value: "swap" } });
  fireEvent.keyDown(field, { key: "Enter" });
  act(() => field.focus());
  act(() => vi.advanceTimersByTime(1_000));
  expect(screen.getAllByRole("option").length).toBeGreaterThan(1);
  act(() => field.blur());
  act(() => vi.advanceTimersByTime(1_000));
  expect(screen.queryByRole("option")).toBeNull();
  vi.useRealTimers();
});

it("lists each of two offers of one kind once, however often the list changes", () => {
  show(
    <AddTurn
      chosen={["sea", "bell"].map((name) => clip(name, 2, { start_time: 48_000 }))}
      groups={[]}
      selected={() => ({ start: 480, end: 960, rate: 48_000, startTime: 48_000 })}
      input={() => {}}
      place={null}
      onClose={() => {}}
      onDone={() => {}}
      recipes={[]}
      onRecipe={() => {}}
      onAdd={() => {}}
    />,
  );
  const errors = vi.spyOn(console, "error").mockImplementation(() => {});
  const field = screen.getByLabelText("Add a turn");
  fireEvent.focus(field);
  const listed = () => screen.getAllByRole("option").map((option) => option.textContent);
  const all = listed();
  expect(all.filter((text) => text?.startsWith("trim"))).toHaveLength(2);
  for (const value of ["trim", "", "tr", ""]) fireEvent.change(field, { target: { value } });
  expect(listed()).toEqual(all);
  expect(errors.mock.calls.filter(([text]) => String(text).includes("same key"))).toEqual([]);
  errors.mockRestore();
});
