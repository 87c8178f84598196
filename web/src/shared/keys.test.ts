import { fireEvent, renderHook } from "@testing-library/react";
import { beforeEach, expect, it, vi } from "vitest";
import { keyName, useShortcuts } from "./keys";

beforeEach(() => {
  document.body.innerHTML = "";
});

it("names keys with what is held", () => {
  const name = (key: string, held: KeyboardEventInit = {}) =>
    keyName(new KeyboardEvent("keydown", { key, ...held }));
  expect(name("Z", { ctrlKey: true, shiftKey: true })).toBe("Ctrl+Shift+z");
  expect(name("z", { metaKey: true })).toBe("Ctrl+z");
  expect(name("?", { shiftKey: true })).toBe("?");
  expect(name(" ")).toBe("Space");
});

it("leaves keys to fields, buttons and dialogs", () => {
  const play = vi.fn();
  renderHook(() => useShortcuts({ Space: play, t: play, ArrowLeft: play }));
  document.body.insertAdjacentHTML("beforeend", "<input id='field'><button id='button'></button>");
  const press = (key: string, on: Element) => fireEvent.keyDown(on, { key });
  press(" ", document.body);
  expect(play).toHaveBeenCalledTimes(1);
  press("t", document.getElementById("field") as Element);
  press(" ", document.getElementById("button") as Element);
  expect(play).toHaveBeenCalledTimes(1);
  press("t", document.getElementById("button") as Element);
  expect(play).toHaveBeenCalledTimes(2);
  document.body.insertAdjacentHTML("beforeend", "<input type='range' id='slider'>");
  press("ArrowLeft", document.getElementById("slider") as Element);
  expect(play).toHaveBeenCalledTimes(2);
  press(" ", document.getElementById("slider") as Element);
  expect(play).toHaveBeenCalledTimes(3);
  document.body.insertAdjacentHTML("beforeend", "<div role='dialog'></div>");
  press("t", document.body);
  expect(play).toHaveBeenCalledTimes(3);
});
