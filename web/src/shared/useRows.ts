/**
 * Rows of which one is current, moved through by keys: the listbox pattern of the WAI-ARIA Authoring Practices, where
 * only some of the rows are on the page. The list keeps the focus and names its current row.
 */
import { type KeyboardEvent, useId, useRef, useState } from "react";
import { singleKeys } from "./keys";

const PAGE = 10;
/** Letters typed within this time are one beginning of a name. */
const TYPING = 700; // milliseconds

type Rows = {
  count: number;
  /** The current row; -1 where there is none. */
  at: number;
  /** What a row begins with. Typed letters go to it where they are no commands of the page. */
  text: (row: number) => string;
  onMove: (row: number, event: KeyboardEvent) => void;
  /** Keys of the list itself; true where one was taken. */
  onKey?: (event: KeyboardEvent) => boolean;
};

export function useRows({ count, at, text, onMove, onKey }: Rows) {
  const id = useId();
  const typed = useRef({ text: "", until: 0 });
  /** The row that Ctrl and the arrows have gone to, from the current row of then; from any where it was toggled. */
  const [walked, setWalked] = useState<{ row: number; from: number | null } | null>(null);
  const walks = walked !== null && (walked.from === null || walked.from === at) && walked.row < count;
  const active = walks ? walked.row : at;
  const rowId = (row: number) => `${id}row${row}`;
  const ahead = (event: KeyboardEvent): number | null => {
    const letter = event.key.length === 1 && event.key !== " " && !event.altKey;
    if (!letter || singleKeys.getState().on) return null;
    const now = Date.now();
    typed.current = {
      text: (now < typed.current.until ? typed.current.text : "") + event.key.toLowerCase(),
      until: now + TYPING,
    };
    const from = typed.current.text.length > 1 ? active : active + 1;
    const order = Array.from({ length: count }, (_, n) => (Math.max(0, from) + n) % count);
    return order.find((row) => text(row).toLowerCase().startsWith(typed.current.text)) ?? null;
  };
  const target = (event: KeyboardEvent): number | null => {
    if (event.altKey && event.key.startsWith("Arrow")) return null;
    if ((event.ctrlKey || event.metaKey) && !event.key.startsWith("Arrow")) return null;
    const last = count - 1;
    switch (event.key) {
      case "ArrowDown":
        return Math.min(last, active + 1);
      case "ArrowUp":
        return Math.max(0, active - 1);
      case "PageDown":
        return Math.min(last, active + PAGE);
      case "PageUp":
        return Math.max(0, active - PAGE);
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
    const held = event.ctrlKey || event.metaKey;
    if (row !== null && held) setWalked({ row, from: at });
    else if (row !== null) {
      setWalked(null);
      onMove(row, event);
    } else if (event.key === " " && held && active >= 0) {
      setWalked({ row: active, from: null });
      onMove(active, event);
    } else if (!onKey?.(event)) return;
    event.preventDefault();
    event.stopPropagation();
  };
  return {
    rowId,
    /** The row that the keys are at: the current one, or another one that was gone to. */
    active,
    list: {
      tabIndex: 0,
      onKeyDown,
      onPointerDown: () => setWalked(null),
      "aria-activedescendant": active >= 0 ? rowId(active) : undefined,
    },
  };
}
