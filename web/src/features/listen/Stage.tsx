/** The waveforms on one time axis, with the playhead, the range, and the hands that move them. */
import { Box, Flex } from "@chakra-ui/react";
import { type PointerEvent as Pointing, useCallback, useEffect, useLayoutEffect, useRef } from "react";
import { clock } from "../../shared/format";
import { useDrawn, useFrames, useListen, useSession } from "./context";
import { HushLayer, type HushOverlay } from "./HushLayer";
import { GUTTER } from "./LaneFrame";
import { laneChannels } from "./lane";
import { decimalsOf, tickStep, type Viewport } from "./viewport";
import { WaveLane } from "./WaveLane";

/** A pointer that moved less than this did not mean to choose a range. */
const CLICK_WITHIN = 3;

export function Stage({ overlay: { hushes } }: { overlay: { hushes: HushOverlay | null } }) {
  const drawn = useDrawn();
  return (
    <Flex direction="column" flex={1} minH={0} minW={0} pl={`${GUTTER}px`} position="relative">
      <Ruler />
      <Flex direction="column" flex={1} minH={0} gap={2}>
        {drawn.map((shown) => (
          <WaveLane key={shown.lane.label} shown={shown}>
            {hushes && shown.lane.label === "In" && (
              <HushLayer overlay={hushes} channels={laneChannels(shown.lane)} />
            )}
          </WaveLane>
        ))}
      </Flex>
      <TimeAxis />
    </Flex>
  );
}

function TimeAxis() {
  const session = useSession();
  const axis = useRef<HTMLDivElement>(null);
  const grabbed = useRef<number | null>(null);
  const viewport = useListen((state) => state.viewport);
  const frames = useListen((state) => state.frames);
  const width = useListen((state) => state.width);
  const range = useListen((state) => state.range);
  const toPixel = (frame: number) => (frame - viewport.start) / viewport.scale;
  const toFrame = (x: number) =>
    Math.min(frames, Math.max(0, Math.round(viewport.start + x * viewport.scale)));

  useLayoutEffect(() => {
    const element = axis.current;
    if (!element) return;
    const measure = () => element.clientWidth && session.look.setWidth(element.clientWidth);
    measure();
    const observer = new ResizeObserver(measure);
    observer.observe(element);
    return () => observer.disconnect();
  }, [session]);
  // React's own wheel listener is passive: the page would scroll with the picture.
  useEffect(() => {
    const element = axis.current;
    if (!element) return;
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      const sideways = Math.abs(event.deltaX) > Math.abs(event.deltaY) || event.shiftKey;
      if (sideways) session.look.pan(event.deltaX || event.deltaY);
      else
        session.look.zoomAt(
          Math.exp(-event.deltaY / 300),
          event.clientX - element.getBoundingClientRect().left,
        );
    };
    element.addEventListener("wheel", wheel, { passive: false });
    return () => element.removeEventListener("wheel", wheel);
  }, [session]);

  const xOf = (event: Pointing<HTMLElement>) =>
    event.clientX - event.currentTarget.getBoundingClientRect().left;
  const down = (event: Pointing<HTMLElement>) => {
    if (event.button !== 0) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    grabbed.current = xOf(event);
  };
  const move = (event: Pointing<HTMLElement>) => {
    const from = grabbed.current;
    const x = xOf(event);
    session.look.pointAt(toFrame(x));
    if (from === null || Math.abs(x - from) < CLICK_WITHIN) return;
    session.select([toFrame(Math.min(from, x)), toFrame(Math.max(from, x))]);
  };
  const up = (event: Pointing<HTMLElement>) => {
    const from = grabbed.current;
    grabbed.current = null;
    if (from === null || Math.abs(xOf(event) - from) >= CLICK_WITHIN) return;
    session.select(null);
    session.seek(toFrame(xOf(event)));
  };
  const letGo = () => {
    grabbed.current = null;
  };

  const shade = range && {
    left: Math.max(0, toPixel(range[0])),
    right: Math.min(width, toPixel(range[1])),
  };
  return (
    <Box
      ref={axis}
      data-testid="time-axis"
      data-start={viewport.start}
      data-scale={viewport.scale}
      position="absolute"
      top={0}
      bottom={0}
      left={`${GUTTER}px`}
      right={0}
      cursor="crosshair"
      overflow="hidden"
      touchAction="none"
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onPointerCancel={letGo}
      onPointerLeave={() => session.look.pointAt(null)}
      onLostPointerCapture={letGo}
    >
      {shade && shade.right > shade.left && (
        <Box
          position="absolute"
          top={0}
          bottom={0}
          layerStyle="range"
          left={`${shade.left}px`}
          w={`${shade.right - shade.left}px`}
        />
      )}
      <Playhead />
    </Box>
  );
}

function Playhead() {
  const session = useSession();
  const head = useRef<HTMLDivElement>(null);
  const seenIn = useRef<Viewport | null>(null);
  useFrames(
    useCallback(() => {
      const { viewport, width } = session.store.getState();
      const x = session.look.playhead();
      const seen = x >= 0 && x <= width;
      // A playhead that the user has panned away from is not followed.
      if (!seen && seenIn.current === viewport) session.look.follow();
      seenIn.current = seen ? viewport : null;
      if (!head.current) return false;
      head.current.style.transform = `translateX(${x}px)`;
      head.current.style.visibility = seen ? "visible" : "hidden";
      return false;
    }, [session]),
  );
  return (
    <Box ref={head} position="absolute" top={0} bottom={0} left="-1px" w="2px" bg="fg" pointerEvents="none" />
  );
}

/** About how wide a digit is, in pixels. */
const DIGIT = 7;

function Ruler() {
  const viewport = useListen((state) => state.viewport);
  const width = useListen((state) => state.width);
  const rate = useListen((state) => state.rate);
  const frames = useListen((state) => state.frames);
  const step = tickStep(viewport.scale / rate);
  const decimals = decimalsOf(step);
  const first = Math.ceil(viewport.start / rate / step);
  const last = Math.floor(Math.min(frames, viewport.start + width * viewport.scale) / rate / step);
  const ticks = Array.from({ length: Math.max(0, last - first + 1) }, (_, n) => (first + n) * step);
  return (
    <Box h={5} position="relative" layerStyle="note" overflow="hidden" flexShrink={0} data-testid="ruler">
      {ticks.map((seconds) => {
        const left = (seconds * rate - viewport.start) / viewport.scale;
        const text = clock(seconds, Math.min(6, decimals));
        return (
          <Box
            key={seconds}
            position="absolute"
            left={`${left}px`}
            layerStyle="tick"
            pl={1}
            whiteSpace="nowrap"
          >
            {/* A time that would be cut off is not written; its mark stays. */}
            {left + DIGIT * (text.length + 1) <= width ? text : "\u00a0"}
          </Box>
        );
      })}
    </Box>
  );
}
