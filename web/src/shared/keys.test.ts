import { expect, it } from "vitest";
import { isSingleKey, keyName, ownsKey, setSingleKeys, singleKeys, writeKeys } from "./keys";

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

it("writes keys as people read them", () => {
  expect(writeKeys(["Ctrl+Shift+z"])).toBe("Ctrl Shift Z");
  expect([writeKeys(["Alt+ArrowUp"]), writeKeys(["+", "-"]), writeKeys([])]).toEqual(["Alt ↑", "+  −", ""]);
});

it("tells single keys, which speech would press, from the others", () => {
  expect(["t", "Shift+i", "1", "[", "/"].map(isSingleKey)).toEqual([true, true, true, true, true]);
  expect(["Ctrl+z", "Space", "Alt+ArrowUp", "Escape"].map(isSingleKey)).toEqual([false, false, false, false]);
});

const ALL = ["Space", "Enter", "ArrowLeft", "Shift+ArrowUp", "t", "Ctrl+z", "Delete"];
/** What has the focus, and which of those keys are its own. */
const OWN: readonly (readonly [string, string])[] = [
  ["<input>", "Space Enter ArrowLeft Shift+ArrowUp t Ctrl+z Delete"],
  ["<textarea></textarea>", "Space Enter ArrowLeft Shift+ArrowUp t Ctrl+z Delete"],
  ["<select></select>", "Space Enter ArrowLeft Shift+ArrowUp t Ctrl+z Delete"],
  ["<input type='range'>", "ArrowLeft Shift+ArrowUp Delete"],
  ["<div role='slider'></div>", "ArrowLeft Shift+ArrowUp Delete"],
  ["<input type='checkbox'>", "Space Delete"],
  ["<input type='radio'>", "Space ArrowLeft Shift+ArrowUp Delete"],
  ["<input type='radio' checked>", "ArrowLeft Shift+ArrowUp Delete"],
  ["<button></button>", "Space Enter Delete"],
  ["<summary></summary>", "Space Enter Delete"],
  ["<div role='button'></div>", "Space Enter Delete"],
  ["<div role='listbox'></div>", ""],
  ["<div role='grid'></div>", ""],
  ["<main></main>", ""],
];

it.each(OWN)("leaves to %s the keys that are its own", (html, keys) => {
  document.body.innerHTML = html;
  expect(ALL.filter((key) => ownsKey(document.body.firstElementChild, key)).join(" ")).toBe(keys);
});

it("remembers that single keys are switched off, and hears of it from another window", () => {
  setSingleKeys(false);
  expect(localStorage.getItem("wedge-turn-single-letters")).toBe("off");
  localStorage.setItem("wedge-turn-single-letters", "on");
  window.dispatchEvent(new StorageEvent("storage", { key: "wedge-turn-single-letters" }));
  expect(singleKeys.getState().on).toBe(true);
});
