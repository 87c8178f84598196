/**
 * Keys of the whole page, as a table that both binds them and writes the sheet of keys. A key is ours only while nobody
 * is typing and no dialog is open.
 */
import { useEffect, useEffectEvent, useRef } from "react";
import { useStore } from "zustand";
import { createStore } from "zustand/vanilla";

export type Shortcut = {
  /** "Ctrl+Shift+z", "?", "Space": Ctrl stands for Cmd too; Shift is named only with letters and named keys. */
  keys: readonly string[];
  text: string;
  /** How the keys are written on the sheet, where that is shorter; "" keeps them off it. */
  shown?: string;
  /** Missing where the keys belong to what has the focus, and the sheet alone tells of them. */
  run?: (event: KeyboardEvent) => void;
  /** Again and again while the key is held. */
  repeats?: boolean;
};
export type Section = { title: string; shortcuts: readonly Shortcut[] };

/** Every section that is bound on the page now. */
const bound = createStore<{ sections: readonly Section[] }>(() => ({ sections: [] }));
export const useBoundKeys = () => useStore(bound, (state) => state.sections);

const LETTERS = "wedge-turn-single-letters";
function lettersStored(): boolean {
  try {
    return localStorage.getItem(LETTERS) !== "off";
  } catch {
    return true;
  }
}

/** Whether single letters are keys: who speaks to the machine would press them with every word. */
export const letterKeys = createStore<{ on: boolean }>(() => ({ on: lettersStored() }));
export function setLetterKeys(on: boolean) {
  try {
    localStorage.setItem(LETTERS, on ? "on" : "off");
  } catch {
    // It holds for this page then.
  }
  letterKeys.setState({ on });
}

/** The key that Ctrl stands for in shortcuts, as the keyboard at hand has it. */
export const CTRL = /Mac|iPhone|iPad/.test(navigator.platform) ? "⌘" : "Ctrl";

export function keyName(event: KeyboardEvent): string {
  const key = event.key === " " ? "Space" : event.key.length === 1 ? event.key.toLowerCase() : event.key;
  const letter = /^[a-z]$/.test(key);
  // Brackets and the like need AltGr or Option on many keyboards: what was typed is what counts.
  const typed = key.length === 1 && !/^[a-z0-9]$/.test(key) && event.altKey;
  const parts = typed ? [] : [event.ctrlKey || event.metaKey ? "Ctrl" : "", event.altKey ? "Alt" : ""];
  return [...parts, event.shiftKey && (letter || key.length > 1) ? "Shift" : "", key]
    .filter(Boolean)
    .join("+");
}

const typing = (target: EventTarget | null) =>
  target instanceof HTMLElement &&
  (target.isContentEditable ||
    target.tagName === "TEXTAREA" ||
    target.tagName === "SELECT" ||
    (target instanceof HTMLInputElement && !["checkbox", "radio", "button", "range"].includes(target.type)));

/** A slider or a choice that has the focus moves by these. */
const moving = (target: EventTarget | null, name: string) =>
  target instanceof HTMLElement &&
  ((target instanceof HTMLInputElement && ["range", "radio"].includes(target.type)) ||
    target.role === "slider") &&
  /Arrow|Home|End|Page/.test(name);

/** Space and Enter belong to what has the focus where it is pressed, ticked or chosen by them. */
function pressed(target: EventTarget | null, name: string): boolean {
  if (!(target instanceof HTMLElement)) return false;
  if (target instanceof HTMLInputElement && name === "Space")
    return target.type === "checkbox" || (target.type === "radio" && !target.checked);
  return (
    target.closest("button, a, summary, [role=button], [role=option], [role=row], [role=menuitem]") !== null
  );
}

/** Bind a section of keys for as long as it is on the page. */
export function useShortcuts(title: string, shortcuts: readonly Shortcut[]) {
  const act = useEffectEvent((event: KeyboardEvent) => {
    if (
      event.defaultPrevented ||
      typing(event.target) ||
      document.querySelector("[role=dialog], [role=alertdialog]")
    )
      return;
    const name = keyName(event);
    if (/^[a-z]$/.test(name) && !letterKeys.getState().on) return;
    if (["Space", "Enter"].includes(name) && pressed(event.target, name)) return;
    if (moving(event.target, name)) return;
    const { run, repeats } = shortcuts.find(({ keys }) => keys.includes(name)) ?? {};
    if (!run) return;
    event.preventDefault();
    if (!event.repeat || repeats) run(event);
  });
  useEffect(() => {
    const listen = (event: KeyboardEvent) => act(event);
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, []);
  // What the keys do changes with every drawing; what the sheet says of them does not.
  const latest = useRef(shortcuts);
  useEffect(() => {
    latest.current = shortcuts;
  });
  const words = shortcuts.map(({ text, shown }) => `${text}${shown}`).join();
  useEffect(() => {
    const section = { title, shortcuts: words ? latest.current : [] };
    bound.setState(({ sections }) => ({ sections: [...sections, section] }));
    return () => bound.setState(({ sections }) => ({ sections: sections.filter((one) => one !== section) }));
  }, [title, words]);
}
