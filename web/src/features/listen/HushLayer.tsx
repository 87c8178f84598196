/** Hushes over the waveform of what goes in: each on its channel's part, drawn, moved and resized there. */
import { Box } from "@chakra-ui/react";
import { type PointerEvent as Pointing, useLayoutEffect, useRef, useState } from "react";
import { clock } from "../../shared/format";
import { useListen, useSession } from "./context";
import { type HushActions, type HushSpan, HushStretch, rowOf } from "./HushStretch";
import type { Range } from "./viewport";

/** The hushes of a turn, in frames, and what is done to them. */
export type HushOverlay = {
  hushes: readonly HushSpan[];
  /** Suggested ones, which are outlines until they are taken. */
  proposals: readonly { channel: number; span: Range }[];
  onTake: (proposals: readonly number[]) => void;
  selected: number | null;
  /** Dragging over a channel draws a new one. */
  drawing: boolean;
  onDrawing: () => void;
  onDraw: (channel: number, span: Range) => void;
  onSplit: (hush: number, frame: number) => void;
} & HushActions;

const CLICK_WITHIN = 3;

export function HushLayer({ overlay, channels }: { overlay: HushOverlay; channels: number }) {
  const { hushes, proposals, onTake, selected, drawing, onSelect, onDraw } = overlay;
  const session = useSession();
  const viewport = useListen((state) => state.viewport);
  const width = useListen((state) => state.width);
  const frames = useListen((state) => state.frames);
  const rate = useListen((state) => state.rate);
  const actions = useRef<HushActions>(overlay);
  useLayoutEffect(() => {
    actions.current = overlay;
  }, [overlay]);
  const from = useRef<{ x: number; y: number } | null>(null);
  const [drawn, setDrawn] = useState<{ channel: number; span: Range } | null>(null);
  const [reached, setReached] = useState(0);
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
        <HushStretch
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
          n={n}
          actions={actions}
        />
      ))}
      {proposals.map(({ channel, span: [start, end] }, n) => (
        <Box
          key={`${channel} ${start}`}
          role="button"
          aria-label={`Accept suggested hush, ${clock(start / rate)} to ${clock(end / rate)}`}
          data-testid="proposal"
          position="absolute"
          {...rowOf(channel, channels)}
          style={{ left: toPixel(start), width: Math.max(2, toPixel(end) - toPixel(start)) }}
          layerStyle="proposal"
          cursor="pointer"
          pointerEvents="auto"
          // Of hundreds one can be tabbed to; arrows lead to the others.
          tabIndex={n === Math.min(reached, proposals.length - 1) ? 0 : -1}
          _hover={{ bg: "range" }}
          onFocus={() => setReached(n)}
          onClick={() => onTake([n])}
          onKeyDown={(event) => {
            const by = event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0;
            const others =
              event.currentTarget.parentElement?.querySelectorAll<HTMLElement>("[data-testid=proposal]");
            if (by) others?.[n + by]?.focus();
            else if (event.key === "Enter" || event.key === " ") onTake([n]);
            else return;
            event.preventDefault();
            event.stopPropagation();
          }}
        />
      ))}
      {drawn && (
        <Box
          position="absolute"
          {...rowOf(drawn.channel, channels)}
          left={`${toPixel(drawn.span[0])}px`}
          w={`${toPixel(drawn.span[1]) - toPixel(drawn.span[0])}px`}
          layerStyle="hush"
          pointerEvents="none"
        />
      )}
    </Box>
  );
}
