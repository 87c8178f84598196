/** One hush over the waveform: moved as a whole, or resized at its ends, by hand or by arrows. */
import { Box } from "@chakra-ui/react";
import { type KeyboardEvent, memo, type PointerEvent as Pointing, type RefObject, useRef } from "react";
import type { Range } from "./viewport";

export type HushSpan = {
  /** Counted from 0. */
  channel: number;
  start: number;
  end: number;
  /** As a factor. */
  gain: number;
  /** Its label for screen readers. */
  text: string;
};
type Part = "start" | "end" | "both";
type Drag = { part: Part; x: number; span: Range };

/** Narrower than this there are no handles: it is moved, or resized from nearer. */
const LEAST_FOR_HANDLES = 36;
/** From here on handles are as wide as a target should be, 24 pixels (WCAG 2.2, 2.5.8). */
const ROOMY = 72;

/** Where a channel's part of the picture lies. */
export const rowOf = (channel: number, channels: number) => ({
  top: `${(100 * channel) / channels}%`,
  h: `${100 / channels}%`,
});

type HushStretchProps = {
  hush: HushSpan;
  left: number;
  width: number;
  channels: number;
  current: boolean;
  selected: boolean;
  /** Frames a pixel. */
  scale: number;
  frames: number;
  /** Which of the hushes it is. */
  n: number;
  actions: RefObject<HushActions>;
};

/** What is done to a hush, by its number. */
export type HushActions = {
  onSelect: (hush: number | null) => void;
  onMove: (hush: number, span: Range) => void;
  onRemove: (hush: number) => void;
};

/** One of hundreds: drawn again only where something of itself has changed, not because another was moved. */
export const HushStretch = memo(
  Stretch,
  ({ hush: was, ...before }, { hush, ...now }) => same(was, hush) && same(before, now),
);

function same<T extends object>(one: T, other: T) {
  return (Object.keys(one) as (keyof T)[]).every((key) => one[key] === other[key]);
}

function Stretch(props: HushStretchProps) {
  const { hush, left, width, channels, current, selected, scale, frames, n, actions } = props;
  const drag = useRef<Drag | null>(null);
  const span: Range = [hush.start, hush.end];
  const grab = (part: Part) => ({
    onPointerDown: (event: Pointing<HTMLElement>) => {
      if (event.button !== 0) return;
      event.stopPropagation();
      event.currentTarget.setPointerCapture(event.pointerId);
      drag.current = { part, x: event.clientX, span };
      actions.current.onSelect(n);
    },
    onPointerMove: (event: Pointing<HTMLElement>) => {
      const held = drag.current;
      if (held)
        actions.current.onMove(n, shifted(held.span, held.part, (event.clientX - held.x) * scale, frames));
    },
    onPointerUp: () => {
      drag.current = null;
    },
    onPointerCancel: () => {
      drag.current = null;
    },
    onKeyDown: (event: KeyboardEvent) => {
      const step = Math.max(1, scale);
      const { onMove, onRemove, onSelect } = actions.current;
      if (event.key === "ArrowLeft") onMove(n, shifted(span, part, -step, frames));
      else if (event.key === "ArrowRight") onMove(n, shifted(span, part, step, frames));
      else if (event.key === "Delete" || event.key === "Backspace") onRemove(n);
      else if (event.key === "Enter" || event.key === " ") onSelect(n);
      else return;
      event.preventDefault();
      event.stopPropagation();
    },
    tabIndex: current ? 0 : -1,
  });
  return (
    <Box
      position="absolute"
      {...rowOf(hush.channel, channels)}
      style={{ left, width }}
      pointerEvents="auto"
      data-testid="hush"
    >
      <Box
        role="button"
        aria-label={`Hush: ${hush.text}`}
        aria-pressed={selected}
        position="absolute"
        inset={0}
        cursor="grab"
        layerStyle="hush"
        // The deeper it is, the less is left to see under it.
        style={{ opacity: 1 - 0.5 * hush.gain }}
        {...grab("both")}
      />
      {width >= LEAST_FOR_HANDLES &&
        (["start", "end"] as const).map((part) => (
          <Box
            key={part}
            role="slider"
            aria-label={`${part === "start" ? "Start" : "End"} of hush: ${hush.text}`}
            aria-valuemin={0}
            aria-valuemax={frames}
            aria-valuenow={part === "start" ? hush.start : hush.end}
            position="absolute"
            top={0}
            bottom={0}
            w={width >= ROOMY ? 6 : 2}
            left={part === "start" ? 0 : undefined}
            right={part === "end" ? 0 : undefined}
            cursor="ew-resize"
            _hover={{ bg: "fg.quiet" }}
            {...grab(part)}
          />
        ))}
    </Box>
  );
}

/** A span moved by frames, whole or at one of its ends: a frame long at the least, and within the file. */
export function shifted([start, end]: Range, part: Part, by: number, frames: number): Range {
  const frame = Math.round(by);
  if (part === "start") return [Math.max(0, Math.min(end - 1, start + frame)), end];
  if (part === "end") return [start, Math.min(Math.max(frames, end), Math.max(start + 1, end + frame))];
  const moved = Math.max(-start, Math.min(Math.max(0, frames - end), frame));
  return [start + moved, end + moved];
}
