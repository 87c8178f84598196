/** Keys of the whole page. One is ours only while nobody is typing and no dialog is open. */
import { useEffect, useEffectEvent } from "react";

export type Shortcuts = Record<string, (event: KeyboardEvent) => void>;

/** "Ctrl+Shift+z", "?", "Space": Ctrl stands for Cmd too; Shift is named only with letters. */
export function keyName(event: KeyboardEvent): string {
  const key = event.key === " " ? "Space" : event.key.length === 1 ? event.key.toLowerCase() : event.key;
  const letter = /^[a-z]$/.test(key);
  const parts = [event.ctrlKey || event.metaKey ? "Ctrl" : "", event.altKey ? "Alt" : ""];
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

/** A slider that has the focus moves by these. */
const sliding = (target: EventTarget | null, name: string) =>
  target instanceof HTMLInputElement && target.type === "range" && /Arrow|Home|End|Page/.test(name);

/** Space and Enter belong to a button, link or choice that has the focus. */
const pressable = (target: EventTarget | null) =>
  target instanceof HTMLElement &&
  target.closest("button, a, [role=option], [role=row], [role=menuitem]") !== null;

export function useShortcuts(shortcuts: Shortcuts) {
  const act = useEffectEvent((event: KeyboardEvent) => {
    if (
      event.defaultPrevented ||
      typing(event.target) ||
      document.querySelector("[role=dialog], [role=alertdialog]")
    )
      return;
    const name = keyName(event);
    if (["Space", "Enter"].includes(name) && pressable(event.target)) return;
    if (sliding(event.target, name)) return;
    const action = shortcuts[name];
    if (!action) return;
    event.preventDefault();
    action(event);
  });
  useEffect(() => {
    const listen = (event: KeyboardEvent) => act(event);
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, []);
}
