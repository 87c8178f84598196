import { fireEvent, screen } from "@testing-library/react";
import { createRef } from "react";
import { expect, it, vi } from "vitest";
import { clip } from "../../api/testing";
import { show } from "../../shared/testing";
import { AddTurn } from "./AddTurn";

it("adds the turn whose name is typed, on Enter", () => {
  const onAdd = vi.fn();
  show(
    <AddTurn
      chosen={[clip("a", 1), clip("b", 1)]}
      groups={[]}
      selected={() => null}
      input={createRef()}
      place={null}
      onClose={() => {}}
      onAdd={onAdd}
    />,
  );
  const field = screen.getByLabelText("Add a turn");
  fireEvent.focus(field);
  fireEvent.change(field, { target: { value: "spl" } });
  fireEvent.keyDown(field, { key: "Enter" });
  expect(onAdd).not.toHaveBeenCalled();
  fireEvent.change(field, { target: { value: "mer" } });
  fireEvent.keyDown(field, { key: "Enter" });
  expect(onAdd).toHaveBeenCalledOnce();
  expect(onAdd.mock.calls[0]?.[0][0].inputs).toEqual(["source:a", "source:b"]);
});

it("never takes another turn for one that is refused by its own name", () => {
  const onAdd = vi.fn();
  show(
    <AddTurn
      chosen={[clip("sea", 2)]}
      groups={[]}
      selected={() => null}
      input={createRef()}
      place={null}
      onClose={() => {}}
      onAdd={onAdd}
    />,
  );
  const field = screen.getByLabelText("Add a turn");
  fireEvent.focus(field);
  fireEvent.change(field, { target: { value: "sum" } });
  expect(screen.getAllByRole("option").map((one) => one.textContent)[0]).toContain("sum");
  fireEvent.keyDown(field, { key: "Enter" });
  expect(onAdd).not.toHaveBeenCalled();
});

it("says which turns there are where none is called so", () => {
  show(
    <AddTurn
      chosen={[clip("sea", 2)]}
      groups={[]}
      selected={() => null}
      input={createRef()}
      place={null}
      onClose={() => {}}
      onAdd={vi.fn()}
    />,
  );
  const field = screen.getByLabelText("Add a turn");
  fireEvent.focus(field);
  fireEvent.change(field, { target: { value: "split night-ferry" } });
  expect(screen.getByRole("status").textContent).toContain(
    "Select files first, then type one of merge, split, swap",
  );
});
