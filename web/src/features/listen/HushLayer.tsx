/** Hushes over the waveform of what goes in: each on its channel's part, drawn, moved and resized there. */
import { Box } from "@chakra-ui/react";
import { type KeyboardEvent, type PointerEvent as Pointing, useRef, useState } from "react";
import { useShortcuts } from "../../shared/keys";
import { useListen, useSession } from "./context";
import type { Range } from "./viewport";

export type HushSpan = {
  /** Counted from 0. */
  channel: number;
  start: number;
  end: number;
  /** As a factor. */
  gain: number;
  /** What it is called, for those who don't see it. */
  text: string;
};
/** The hushes of a turn, in frames, and what is done to them. */
export type HushOverlay = {
  hushes: readonly HushSpan[];
  selected: number | null;
  /** Dragging over a channel draws a new one. */
  drawing: boolean;
  onDrawing: () => void;
  onSelect: (hush: number | null) => void;
  onDraw: (channel: number, span: Range) => void;
  onMove: (hush: number, span: Range) => void;
  onSplit: (hush: number, frame: number) => void;
  onRemove: (hush: number) => void;
};

type Part = "start" | "end" | "both";
type Drag = { part: Part; x: number; span: Range };

/** Narrower than this there are no handles: it is moved, or resized from nearer. */
const LEAST_FOR_HANDLES = 16;
const CLICK_WITHIN = 3;

export function HushLayer({ overlay, channels }: { overlay: HushOverlay; channels: number }) {
  const { hushes, selected, drawing, onDrawing, onSelect, onDraw, onSplit } = overlay;
  const session = useSession();
  const viewport = useListen((state) => state.viewport);
  const width = useListen((state) => state.width);
  const frames = useListen((state) => state.frames);
  const from = useRef<{ x: number; y: number } | null>(null);
  const [drawn, setDrawn] = useState<{ channel: number; span: Range } | null>(null);
  useShortcuts("Hushes", [
    { keys: ["h"], text: "draw hushes over the waveform, or a range", run: onDrawing },
    {
      keys: ["s"],
      text: "split the selected hush at the playhead",
      run: () => selected !== null && onSplit(selected, session.player.position),
    },
    { keys: ["ArrowLeft", "ArrowRight"], text: "move the hush, or its end, that has the focus" },
  ]);

  const toPixel = (frame: number) => (frame - viewport.start) / viewport.scale;
  const toFrame = (x: number) =>
    Math.min(frames, Math.max(0, Math.round(viewport.start + x * viewport.scale)));
  const place = (event: Pointing<HTMLElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    return { x: event.clientX - box.left, y: (event.clientY - box.top) / box.height };
  };
  const down = (event: Pointing<HTMLElement>) => {
    if (!drawing || event.button !== 0 || event.target !== event.currentTarget) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    from.current = place(event);
  };
  const move = (event: Pointing<HTMLElement>) => {
    const start = from.current;
    if (!start) return;
    const { x } = place(event);
    if (Math.abs(x - start.x) < CLICK_WITHIN && !drawn) return;
    const channel = Math.min(channels - 1, Math.max(0, Math.floor(start.y * channels)));
    setDrawn({ channel, span: [toFrame(Math.min(start.x, x)), toFrame(Math.max(start.x, x))] });
  };
  const up = (event: Pointing<HTMLElement>) => {
    const start = from.current;
    from.current = null;
    setDrawn(null);
    if (!start) return;
    if (drawn && drawn.span[1] > drawn.span[0]) onDraw(drawn.channel, drawn.span);
    else {
      onSelect(null);
      session.seek(toFrame(place(event).x));
    }
  };
  const letGo = () => {
    from.current = null;
    setDrawn(null);
  };

  const seen = hushes
    .map((hush, n) => ({ hush, n, left: toPixel(hush.start), right: toPixel(hush.end) }))
    .filter(({ left, right }) => right >= 0 && left <= width);
  return (
    <Box
      position="absolute"
      inset={0}
      overflow="hidden"
      zIndex={1}
      touchAction="none"
      cursor={drawing ? "crosshair" : undefined}
      pointerEvents={drawing ? "auto" : "none"}
      role="group"
      aria-label="Hushes"
      data-testid="hushes"
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onPointerCancel={letGo}
    >
      {seen.map(({ hush, n, left, right }) => (
        <Stretch
          key={n}
          hush={hush}
          left={left}
          width={Math.max(2, right - left)}
          channels={channels}
          // In a list of hundreds one can be tabbed to; the rows beside it lead to the others.
          current={n === (selected ?? 0)}
          selected={n === selected}
          scale={viewport.scale}
          frames={frames}
          onSelect={() => onSelect(n)}
          onMove={(span) => overlay.onMove(n, span)}
          onRemove={() => overlay.onRemove(n)}
        />
      ))}
      {drawn && (
        <Box
          position="absolute"
          {...rowOf(drawn.channel, channels)}
          left={`${toPixel(drawn.span[0])}px`}
          w={`${toPixel(drawn.span[1]) - toPixel(drawn.span[0])}px`}
          bg="hush"
          borderWidth={1}
          borderColor="fg"
          pointerEvents="none"
        />
      )}
    </Box>
  );
}

const rowOf = (channel: number, channels: number) => ({
  top: `${(100 * channel) / channels}%`,
  h: `${100 / channels}%`,
});

type StretchProps = {
  hush: HushSpan;
  left: number;
  width: number;
  channels: number;
  current: boolean;
  selected: boolean;
  /** Frames a pixel. */
  scale: number;
  frames: number;
  onSelect: () => void;
  onMove: (span: Range) => void;
  onRemove: () => void;
};

function Stretch(props: StretchProps) {
  const { hush, left, width, channels, current, selected, scale, frames, onSelect, onMove, onRemove } = props;
  const drag = useRef<Drag | null>(null);
  const span: Range = [hush.start, hush.end];
  const grab = (part: Part) => ({
    onPointerDown: (event: Pointing<HTMLElement>) => {
      if (event.button !== 0) return;
      event.stopPropagation();
      event.currentTarget.setPointerCapture(event.pointerId);
      drag.current = { part, x: event.clientX, span };
      onSelect();
    },
    onPointerMove: (event: Pointing<HTMLElement>) => {
      const held = drag.current;
      if (held) onMove(shifted(held.span, held.part, (event.clientX - held.x) * scale, frames));
    },
    onPointerUp: () => {
      drag.current = null;
    },
    onPointerCancel: () => {
      drag.current = null;
    },
    onKeyDown: (event: KeyboardEvent) => {
      const step = Math.max(1, scale);
      if (event.key === "ArrowLeft") onMove(shifted(span, part, -step, frames));
      else if (event.key === "ArrowRight") onMove(shifted(span, part, step, frames));
      else if (event.key === "Delete" || event.key === "Backspace") onRemove();
      else if (event.key === "Enter") onSelect();
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
        bg="hush"
        // The deeper it is, the less is left to see under it.
        style={{ opacity: 1 - 0.5 * hush.gain }}
        borderWidth={selected ? 2 : 1}
        borderColor={selected ? "fg" : "fg.quiet"}
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
            w="6px"
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
