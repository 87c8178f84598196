/** What a key is called, which keys belong to what has the focus, and whether single keys are commands at all. */
import { createStore } from "zustand/vanilla";

const STORED = "wedge-turn-single-letters";
function wereOn(): boolean {
  try {
    return localStorage.getItem(STORED) !== "off";
  } catch {
    return true;
  }
}

/** Whether letters, digits and signs are commands: who speaks to the machine would press them with every word. */
export const singleKeys = createStore<{ on: boolean }>(() => ({ on: wereOn() }));
export function setSingleKeys(on: boolean) {
  try {
    localStorage.setItem(STORED, on ? "on" : "off");
  } catch {
    // It holds for this page then.
  }
  singleKeys.setState({ on });
}
// Another window has the same keys.
window.addEventListener("storage", ({ key }) => key === STORED && singleKeys.setState({ on: wereOn() }));

/** Whether a key is pressed without Ctrl or Alt, and types a character. */
export const isSingleKey = (name: string) => name.replace(/^Shift\+/, "").length === 1;

/** The key that Ctrl stands for in commands, as the keyboard at hand has it. */
export const CTRL = /Mac|iPhone|iPad/.test(navigator.platform) ? "⌘" : "Ctrl";

/** "Ctrl+Shift+z", "?", "Space": Ctrl stands for Cmd too; Shift is named only with letters and named keys. */
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

const WRITTEN: Record<string, string> = {
  Ctrl: CTRL,
  Escape: "Esc",
  ArrowLeft: "←",
  ArrowRight: "→",
  ArrowUp: "↑",
  ArrowDown: "↓",
  "-": "−",
};

/** Keys as a sheet, a menu or a tip writes them. */
export function writeKeys(keys: readonly string[]): string {
  const write = (key: string) =>
    key
      .split(/\+(?=.)/)
      .map((part) => WRITTEN[part] ?? (/^[a-z]$/.test(part) && key.includes("+") ? part.toUpperCase() : part))
      .join(" ");
  return keys.map(write).join("  ");
}

const ARROWS = /^(Shift\+)?(Arrow|Home|End|Page)/;
const PRESS = /^(Space|Enter)$/;
/** What of the keys is theirs that have the focus, by their role. */
const OWNED: Record<string, RegExp> = {
  textbox: /./,
  select: /./,
  slider: ARROWS,
  separator: ARROWS,
  radio: ARROWS,
  checkbox: /^Space$/,
  button: PRESS,
  link: PRESS,
  option: PRESS,
  row: PRESS,
  menuitem: PRESS,
};

/** The role of what has the focus, or of what it stands in. */
function roleOf(element: HTMLElement): string {
  if (element.isContentEditable || element instanceof HTMLTextAreaElement) return "textbox";
  if (element instanceof HTMLSelectElement) return "select";
  if (element instanceof HTMLInputElement) {
    if (element.type === "range") return "slider";
    return ["checkbox", "radio", "button"].includes(element.type) ? element.type : "textbox";
  }
  const around = element.closest("[role], button, a, summary");
  if (!around) return "";
  return around.getAttribute("role") ?? (around.tagName === "A" ? "link" : "button");
}

/** Whether a key belongs to what has the focus. */
export function ownsKey(target: EventTarget | null, name: string): boolean {
  if (!(target instanceof HTMLElement)) return false;
  if (target instanceof HTMLInputElement && target.type === "radio" && !target.checked && name === "Space")
    return true; // it is chosen by that
  const owned = OWNED[roleOf(target)];
  // With the focus on a setting, it is not the line that is meant to go.
  return owned !== undefined && (owned.test(name) || name === "Delete");
}
