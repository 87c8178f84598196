/** A line between two panes, one above the other, that is dragged or moved by arrow keys; it remembers its place. */
import { Box } from "@chakra-ui/react";
import { type KeyboardEvent, type PointerEvent, useState } from "react";

const [LEAST, MOST, BY_KEY] = [15, 80, 2]; // per cent

/** How much of the height the upper pane may take, in per cent, and how to change it. */
export function useSplit(name: string, at: number): [number, (share: number) => void] {
  const key = `wedge-turn.split.${name}`;
  const [share, setShare] = useState(() => within(stored(key) || at));
  return [
    share,
    (next) => {
      try {
        localStorage.setItem(key, String(within(next)));
      } catch {
        // It holds for this page then.
      }
      setShare(within(next));
    },
  ];
}

function stored(key: string): number {
  try {
    return Number(localStorage.getItem(key));
  } catch {
    return 0;
  }
}

const within = (share: number) => Math.max(LEAST, Math.min(MOST, share));

type Props = { label: string; share: number; onShare: (share: number) => void; home: number };

export function Splitter({ label, share, onShare, home }: Props) {
  const move = (event: PointerEvent<HTMLElement>) => {
    if (!event.currentTarget.hasPointerCapture(event.pointerId)) return;
    const area = event.currentTarget.parentElement?.getBoundingClientRect();
    if (area) onShare((100 * (event.clientY - area.top)) / area.height);
  };
  const key = (event: KeyboardEvent) => {
    const to = { ArrowUp: share - BY_KEY, ArrowDown: share + BY_KEY, Home: LEAST, End: MOST }[event.key];
    if (to === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    onShare(to);
  };
  return (
    <Box
      role="separator"
      aria-label={label}
      aria-orientation="horizontal"
      aria-valuenow={Math.round(share)}
      aria-valuemin={LEAST}
      aria-valuemax={MOST}
      tabIndex={0}
      title="Drag, or press ↑ ↓. Double-click to reset."
      h="9px"
      my="-4px"
      flexShrink={0}
      zIndex={2}
      cursor="row-resize"
      touchAction="none"
      position="relative"
      _before={{ content: '""', position: "absolute", insetX: 0, top: "4px", h: "1px", bg: "line" }}
      _hover={{ _before: { bg: "fg.quiet" } }}
      onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
      onPointerMove={move}
      onDoubleClick={() => onShare(home)}
      onKeyDown={key}
    />
  );
}
