/**
 * Rows of which one is current, moved through by keys: the listbox pattern of the WAI-ARIA Authoring Practices, where
 * only some of the rows are on the page. The list keeps the focus and names its current row.
 */
import { type KeyboardEvent, useId, useRef } from "react";

const PAGE = 10;
/** Letters typed within this time are one beginning of a name. */
const TYPING = 700; // milliseconds

type Rows = {
  count: number;
  /** The current row; -1 where there is none. */
  at: number;
  /** What a row begins with. Typed with Alt, a name is gone to: letters alone are keys of the page. */
  text: (row: number) => string;
  onMove: (row: number, event: KeyboardEvent) => void;
  /** Keys of the list itself; true where one was taken. */
  onKey?: (event: KeyboardEvent) => boolean;
};

export function useRows({ count, at, text, onMove, onKey }: Rows) {
  const id = useId();
  const typed = useRef({ text: "", until: 0 });
  const rowId = (row: number) => `${id}row${row}`;
  const ahead = (event: KeyboardEvent): number | null => {
    const letter = event.key.length === 1 && event.altKey && !event.ctrlKey && !event.metaKey;
    if (!letter) return null;
    const now = Date.now();
    typed.current = {
      text: (now < typed.current.until ? typed.current.text : "") + event.key.toLowerCase(),
      until: now + TYPING,
    };
    const from = typed.current.text.length > 1 ? at : at + 1;
    const order = Array.from({ length: count }, (_, n) => (Math.max(0, from) + n) % count);
    return order.find((row) => text(row).toLowerCase().startsWith(typed.current.text)) ?? null;
  };
  const target = (event: KeyboardEvent): number | null => {
    if (event.ctrlKey || event.metaKey || (event.altKey && event.key.startsWith("Arrow"))) return null;
    const last = count - 1;
    switch (event.key) {
      case "ArrowDown":
        return Math.min(last, at + 1);
      case "ArrowUp":
        return Math.max(0, at - 1);
      case "PageDown":
        return Math.min(last, at + PAGE);
      case "PageUp":
        return Math.max(0, at - PAGE);
      case "Home":
        return 0;
      case "End":
        return last;
      default:
        return ahead(event);
    }
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const row = count ? target(event) : null;
    if (row !== null) onMove(row, event);
    else if (!onKey?.(event)) return;
    event.preventDefault();
    event.stopPropagation();
  };
  return {
    rowId,
    list: { tabIndex: 0, onKeyDown, "aria-activedescendant": at >= 0 ? rowId(at) : undefined },
  };
}
