// @vitest-environment jsdom
import { ChakraProvider, defaultSystem } from "@chakra-ui/react";
import { fireEvent, render, screen } from "@testing-library/react";
import { createRef } from "react";
import { beforeAll, expect, it, vi } from "vitest";
import type { Clip } from "../../api/client";
import { AddTurn, offersFor } from "./AddTurn";

// jsdom has none of these, and Chakra asks for them.
beforeAll(() => {
  vi.stubGlobal("matchMedia", () => ({ matches: false, addListener: () => {}, removeListener: () => {} }));
});

const clip = (name: string, channels: number): Clip => ({
  ref: `source:${name}`,
  key: name,
  name,
  channels,
  frames: 10,
  rate: 48_000,
  depth: "24",
  container: "WAV",
  speakers: [],
  start_time: null,
});

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
  render(
    <ChakraProvider value={defaultSystem}>
      <AddTurn chosen={[clip("a", 1), clip("b", 1)]} input={createRef()} onAdd={onAdd} />
    </ChakraProvider>,
  );
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
