import { fireEvent } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import { setSingleKeys } from "../shared/keys";
import type { Command } from "./command";
import { COMMANDS, type CommandId, commands, keysOf } from "./commands";
import type { WorkbenchStore } from "./store";
import { dispatch } from "./useKeys";

it("gives no key to two commands, and every command a title and a way to it", () => {
  const bound = commands.flatMap(([, { run, keys }]) => (run ? keys : []));
  expect(bound.filter((key, n) => bound.indexOf(key) !== n)).toEqual([]);
  for (const [id, { title, keys, menu, run }] of commands) {
    expect(title, id).toMatch(/\S/);
    expect(keys.length > 0 || (menu !== undefined && run !== undefined), id).toBe(true);
  }
  const labels = commands.flatMap(
    ([, { menu }]) => menu?.(" 3 lines", { bypassed: false } as WorkbenchStore) ?? [],
  );
  expect(labels.every((label) => /^[A-Z]/.test(label)) && new Set(labels).size === labels.length).toBe(true);
  const titles = commands.map(([, { title, section }]) => `${section}: ${title}`);
  expect(titles.filter((title, n) => titles.indexOf(title) !== n)).toEqual([]);
});

const MODULES = import.meta.glob<string>(["../**/*.{ts,tsx}", "!../**/*.test.*"], {
  query: "?raw",
  import: "default",
  eager: true,
});
const GUIDE = import.meta.glob<string>("../../../docs/guide/*.md", {
  query: "?raw",
  import: "default",
  eager: true,
});

it("has every command whose keys a part of the page writes", () => {
  const written = Object.values(MODULES).flatMap((text) => {
    return [
      ...text.matchAll(/<Keys of="(\w+)"|(?:withKeys|label)\([^()]*(?:\([^()]*\)[^()]*)*, "(\w+)"\)/g),
    ].map(([, cap, tip]) => cap ?? tip ?? "");
  });
  expect(written.length).toBeGreaterThan(15);
  expect(written.filter((id) => !(id in COMMANDS))).toEqual([]);
  expect(() => keysOf("nothing")).toThrow("no command nothing");
});

it("has every key that the guide names", () => {
  const named = Object.values(GUIDE).flatMap((page) =>
    [...page.matchAll(/`([a-z?]|Shift [A-Z]|Alt [↑↓]|Delete)`/g)].map(([, key]) => key ?? ""),
  );
  const known = commands.flatMap(([id]) => keysOf(id).split("  "));
  expect(named.length).toBeGreaterThan(20);
  expect(named.filter((key) => !known.includes(key))).toEqual([]);
});

/** A workbench on which commands are only counted. */
function bench(more: object = {}) {
  const ran: string[] = [];
  const fake = { state: { screen: "worksheet", preview: null }, ...more } as unknown as WorkbenchStore;
  for (const [id, command] of commands)
    if (command.run)
      vi.spyOn(command as Required<Command>, "run").mockImplementation(() => void ran.push(id));
  const presses = (key: string, held: KeyboardEventInit = {}, on: Element = document.body) => {
    ran.length = 0;
    const listen = (event: Event) => dispatch(event as KeyboardEvent, fake);
    window.addEventListener("keydown", listen);
    const passed = fireEvent.keyDown(on, { key, ...held });
    window.removeEventListener("keydown", listen);
    return passed ? "passed" : ran.join() || "taken";
  };
  return { presses };
}

afterEach(() => {
  vi.restoreAllMocks();
  document.body.innerHTML = "";
  setSingleKeys(true);
});

it("runs what a key stands for, and only where it can be used", () => {
  const { presses } = bench({ question: null, step: null });
  expect([presses(" "), presses("?"), presses("/")]).toEqual(["play", "showKeys", "filterFiles"]);
  expect([presses("y"), presses("i"), presses("p")], "nothing is asked, no line is chosen").toEqual([
    "passed",
    "passed",
    "passed",
  ]);
  expect(bench({ question: {} }).presses("y")).toBe("takeAnswer");
});

it("does not begin again and again while a key is held, but goes on with what repeats", () => {
  const { presses } = bench({ state: { screen: "worksheet", preview: null, job: { can_undo: true } } });
  expect([presses(" ", { repeat: true }), presses("ArrowLeft", { repeat: true })]).toEqual(["taken", "back"]);
  expect(presses("z", { ctrlKey: true, repeat: true })).toBe("undo");
});

it("redoes what is undone, and what is being undone", () => {
  const redoes = (isUndoing: boolean, can_redo: boolean) =>
    bench({
      worksheet: { isUndoing },
      state: { screen: "worksheet", preview: null, job: { can_redo } },
    }).presses("z", {
      ctrlKey: true,
      shiftKey: true,
    });
  expect([redoes(false, false), redoes(true, false), redoes(false, true)]).toEqual([
    "passed",
    "redo",
    "redo",
  ]);
});

it("leaves keys to what has the focus, and to what is open over the page", () => {
  const { presses } = bench();
  document.body.innerHTML = "<input><button></button>";
  const [field, button] = document.body.children as unknown as [Element, Element];
  expect([presses("t", {}, field), presses(" ", {}, button), presses("t", {}, button)]).toEqual([
    "passed",
    "passed",
    "addTurn",
  ]);
  document.body.innerHTML = "<div role='dialog'></div>";
  expect(presses("t")).toBe("passed");
});

it("has only the keys of the job where its delivery is shown", () => {
  const { presses } = bench({ state: { screen: "delivery", preview: null } });
  expect([presses(" "), presses("?")]).toEqual(["passed", "showKeys"]);
});

it("leaves letters, digits and signs alone where they are switched off", () => {
  const { presses } = bench({ step: {}, selected: ["a"] });
  setSingleKeys(false);
  const single: readonly [string, KeyboardEventInit][] = [
    ["t", {}],
    ["i", { shiftKey: true }],
    ["1", {}],
    ["[", {}],
    ["?", { shiftKey: true }],
  ];
  for (const [key, held] of single) expect(presses(key, held), key).toBe("passed");
  expect([presses(" "), presses("ArrowLeft"), presses("Escape")]).toEqual(["play", "back", "close"]);
});

it("knows every id by its row", () => {
  const ids: CommandId[] = ["undo", "play", "remove"];
  expect(ids.map((id) => COMMANDS[id].section)).toEqual(["Everywhere", "View and listen", "Worksheet"]);
});
