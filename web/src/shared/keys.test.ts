import { fireEvent, renderHook } from "@testing-library/react";
import { expect, it, onTestFinished, vi } from "vitest";
import { keyName, setLetterKeys, useBoundKeys, useShortcuts } from "./keys";

const name = (key: string, held: KeyboardEventInit = {}) =>
  keyName(new KeyboardEvent("keydown", { key, ...held }));

it("names keys with what is held", () => {
  expect(name("Z", { ctrlKey: true, shiftKey: true })).toBe("Ctrl+Shift+z");
  expect(name("z", { metaKey: true })).toBe("Ctrl+z");
  expect(name("?", { shiftKey: true })).toBe("?");
  expect(name(" ")).toBe("Space");
});

it("knows brackets on keyboards where they are typed with AltGr or Option", () => {
  expect(name("[", { ctrlKey: true, altKey: true })).toBe("[");
  expect(name("]", { altKey: true })).toBe("]");
  expect(name("z", { ctrlKey: true, altKey: true })).toBe("Ctrl+Alt+z");
});

/** A page with keys, and something on it that may have the focus. */
function page() {
  const play = vi.fn();
  const shortcuts = [
    { keys: ["Space", "t", "["], text: "play", run: play },
    { keys: ["ArrowLeft"], text: "back", run: play, repeats: true },
  ];
  const { unmount } = renderHook(() => useShortcuts("Sound", shortcuts));
  const put = (html: string) => {
    document.body.insertAdjacentHTML("beforeend", html);
    return document.body.lastElementChild as Element;
  };
  const presses = (key: string, on: Element = document.body, repeat = false) => {
    play.mockClear();
    fireEvent.keyDown(on, { key, repeat });
    return play.mock.calls.length;
  };
  return { presses, put, unmount };
}

it("leaves keys to fields, buttons, sliders, choices and dialogs", () => {
  const { presses, put } = page();
  expect(presses(" ")).toBe(1);
  expect(presses("t", put("<input>"))).toBe(0);
  const button = put("<button></button>");
  expect([presses(" ", button), presses("t", button)]).toEqual([0, 1]);
  for (const html of [
    "<input type='range'>",
    "<input type='radio' checked>",
    "<div role='slider' tabindex='0'></div>",
  ]) {
    const slider = put(html);
    expect([presses("ArrowLeft", slider), presses(" ", slider)], html).toEqual([0, 1]);
  }
  put("<div role='dialog'></div>");
  expect(presses("t")).toBe(0);
});

it("leaves Space to what it ticks, chooses or presses", () => {
  const { presses, put } = page();
  for (const html of [
    "<input type='checkbox'>",
    "<input type='checkbox' checked>",
    "<input type='radio'>",
    "<div role='button' tabindex='0'></div>",
    "<summary></summary>",
  ])
    expect(presses(" ", put(html)), html).toBe(0);
});

it("does not begin again and again while a key is held, but moves on", () => {
  const { presses } = page();
  expect([presses(" ", document.body, true), presses("ArrowLeft", document.body, true)]).toEqual([0, 1]);
});

it("leaves single letters alone where they are switched off, and other keys as they are", () => {
  onTestFinished(() => setLetterKeys(true));
  const { presses } = page();
  setLetterKeys(false);
  expect([presses("t"), presses(" "), presses("[")]).toEqual([0, 1, 1]);
  expect(localStorage.getItem("wedge-turn-single-letters")).toBe("off");
  setLetterKeys(true);
  expect(presses("t")).toBe(1);
});

it("writes on the sheet what is bound, and no longer", () => {
  const sheet = renderHook(() => useBoundKeys());
  const { unmount } = page();
  expect(sheet.result.current.map(({ title, shortcuts }) => [title, shortcuts[0]?.text])).toEqual([
    ["Sound", "play"],
  ]);
  unmount();
  expect(sheet.result.current).toEqual([]);
});
