/** A list of any length: only the rows in sight are on the page, and the current one is brought into sight. */
import { Box } from "@chakra-ui/react";
import { useVirtualizer } from "@tanstack/react-virtual";
import { Fragment, type KeyboardEvent, type ReactNode, useEffect, useRef } from "react";
import { useRows } from "./useRows";

type Props<T> = {
  label: string;
  role: "listbox" | "grid";
  rows: readonly T[];
  /** What a row is known by, whatever its place. */
  keyOf: (row: T) => string;
  /** In pixels. */
  heightOf: (row: T) => number;
  textOf: (row: T) => string;
  /** The current row; -1 where there is none. */
  at: number;
  several?: boolean;
  onMove: (row: number, event: KeyboardEvent) => void;
  onKey?: (event: KeyboardEvent) => boolean;
  /** A row of the given number, with its id and where it stands. */
  children: (row: T, number: number, id: string, place: Place) => ReactNode;
};
export type Place = { top: number; height: number };

export function RowList<T>(props: Props<T>) {
  "use no memo"; // the virtualizer changes without being another
  const { label, role, rows, keyOf, heightOf, textOf, at, several, onMove, onKey, children } = props;
  const scroller = useRef<HTMLDivElement>(null);
  const height = (n: number) => {
    const row = rows[n];
    return row === undefined ? 0 : heightOf(row);
  };
  const key = (n: number) => {
    const row = rows[n];
    return row === undefined ? n : keyOf(row);
  };
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    getItemKey: (n) => `${key(n)} ${height(n)}`,
    estimateSize: height,
    overscan: 8,
    // Rows beyond those in sight are there already: a scroll need not wait for the next ones.
    useFlushSync: false,
  });
  const { list, rowId, active } = useRows({
    count: rows.length,
    at,
    text: (n) => {
      const row = rows[n];
      return row === undefined ? "" : textOf(row);
    },
    onMove,
    ...(onKey && { onKey }),
  });
  const current = active < 0 ? null : key(active);
  const reveal = useRef(() => {});
  reveal.current = () => {
    const row = virtual.measurementsCache[active];
    const [top, tall] = [virtual.scrollOffset ?? 0, virtual.scrollRect?.height ?? 0];
    // Scrolling has the page laid out anew: only where the row is out of sight.
    if (row && (row.start < top || row.end > top + tall)) virtual.scrollToIndex(active);
  };
  useEffect(() => {
    if (current !== null) reveal.current();
  }, [current]);
  const items = virtual.getVirtualItems();
  // A row that is not on the page cannot be pointed at.
  const shown = items.find((item) => item.index === active);
  return (
    <Box
      {...list}
      aria-activedescendant={shown && list["aria-activedescendant"]}
      ref={scroller}
      flex={1}
      overflowY="auto"
      minH={0}
      contain="layout paint"
      _focusVisible={{ outlineOffset: "-2px" }}
      role={role}
      aria-label={label}
      aria-multiselectable={several}
      aria-rowcount={role === "grid" ? rows.length : undefined}
    >
      {/* Below the outline of the list that has the focus. */}
      <div style={{ position: "relative", zIndex: -1, height: virtual.getTotalSize() }} role="presentation">
        {items.map(({ index, start, size }) => {
          const row = rows[index];
          return row === undefined ? null : (
            <Fragment key={key(index)}>
              {children(row, index, rowId(index), { top: start, height: size })}
            </Fragment>
          );
        })}
        {shown && active !== at && (
          <Box
            position="absolute"
            insetX={0}
            style={{ top: shown.start, height: shown.size }}
            layerStyle="lastReached"
            pointerEvents="none"
            role="presentation"
          />
        )}
      </div>
    </Box>
  );
}
