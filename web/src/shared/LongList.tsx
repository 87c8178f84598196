/** Rows of any number and height, of which only those in sight are on the page. */
import { Box, type BoxProps } from "@chakra-ui/react";
import { useVirtualizer } from "@tanstack/react-virtual";
import { type ReactNode, useRef } from "react";

type Props<T> = Omit<BoxProps, "children"> & {
  rows: readonly T[];
  /** What a row is known by, whatever its place. */
  keyOf: (row: T) => string;
  /** About how high a row is, in pixels. */
  estimate: number;
  children: (row: T, number: number) => ReactNode;
};

export function LongList<T>({ rows, keyOf, estimate, children, ...box }: Props<T>) {
  "use no memo"; // the virtualizer changes without being another
  const scroller = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => estimate,
    getItemKey: (n) => {
      const row = rows[n];
      return row === undefined ? n : keyOf(row);
    },
    overscan: 12,
  });
  return (
    <Box ref={scroller} overflowY="auto" contain="layout paint" {...box}>
      <div style={{ position: "relative", height: virtual.getTotalSize() }} role="presentation">
        {virtual.getVirtualItems().map(({ index, key, start }) => {
          const row = rows[index];
          return row === undefined ? null : (
            <div
              key={key}
              data-index={index}
              ref={virtual.measureElement}
              style={{ position: "absolute", top: 0, left: 0, right: 0, transform: `translateY(${start}px)` }}
              role="presentation"
            >
              {children(row, index)}
            </div>
          );
        })}
      </div>
    </Box>
  );
}
