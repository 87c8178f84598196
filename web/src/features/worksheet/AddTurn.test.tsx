// @vitest-environment jsdom
import { fireEvent, screen } from "@testing-library/react";
import { createRef } from "react";
import { expect, it, vi } from "vitest";
import type { Clip } from "../../api/client";
import { clip } from "../../api/testing";
import { show } from "../../shared/testing";
import { AddTurn, offersFor } from "./AddTurn";

it("offers what takes the chosen clips and says why the rest does not", () => {
  const said = (chosen: Clip[]) => Object.fromEntries(offersFor(chosen).map((o) => [o.kind, o.refused]));
  expect(said([])).toEqual({ merge: "choose two mono files first", split: "choose a stereo file first" });
  expect(said([clip("a", 1)])).toEqual({ merge: "choose two mono files first", split: "a is mono already" });
  expect(said([clip("a", 1), clip("b", 1)]).merge).toBeNull();
  expect(said([clip("a", 2)]).split).toBeNull();
  expect(said([clip("a", 1), clip("b", 2)]).merge).not.toBeNull();
});

it("splits each of several files in a line of its own", () => {
  const split = offersFor([clip("a", 2), clip("b", 6), clip("c", 1)]).find((o) => o.kind === "split");
  expect(split?.turns.map((one) => one.inputs)).toEqual([["source:a"], ["source:b"]]);
});

it("adds the turn whose name is typed, on Enter", () => {
  const onAdd = vi.fn();
  show(<AddTurn chosen={[clip("a", 1), clip("b", 1)]} input={createRef()} onAdd={onAdd} />);
  const field = screen.getByLabelText("Add a turn");
  fireEvent.focus(field);
  fireEvent.change(field, { target: { value: "spl" } });
  fireEvent.keyDown(field, { key: "Enter" });
  expect(onAdd).not.toHaveBeenCalled();
  fireEvent.change(field, { target: { value: "me" } });
  fireEvent.keyDown(field, { key: "Enter" });
  expect(onAdd).toHaveBeenCalledOnce();
  expect(onAdd.mock.calls[0]?.[0][0].inputs).toEqual(["source:a", "source:b"]);
});
