/** In above Out on one time axis, with the playhead, the chosen range, and the hands that move them. */
import { Box, Flex } from "@chakra-ui/react";
import { type PointerEvent as Pointing, type RefObject, useEffect, useRef } from "react";
import { clock } from "../../shared/format";
import { Lane } from "./Lane";
import type { LaneClips } from "./lane";
import type { Playable } from "./player";
import { decimalsOf, pan, tickStep, type Viewport, zoom } from "./viewport";

export type Range = [number, number];

/** Pixels left of the time axis, for the letters. */
const GUTTER = 28;
/** A pointer that moved less than this did not mean to choose a range. */
const CLICK_WITHIN = 3;

type Props = {
  lanes: { lane: LaneClips; playable: Playable }[];
  heard: LaneClips["label"];
  frames: number;
  rate: number;
  viewport: Viewport;
  width: number;
  axis: RefObject<HTMLDivElement | null>;
  gain: number;
  dark: boolean;
  range: Range | null;
  position: () => number;
  onViewport: (change: (viewport: Viewport) => Viewport) => void;
  onRange: (range: Range | null) => void;
  onSeek: (frame: number) => void;
  onProblem: (problem: unknown) => void;
};

export function Stage(props: Props) {
  const { lanes, frames, rate, viewport, width, axis, range, position, onViewport, onRange, onSeek } = props;
  const head = useRef<HTMLDivElement>(null);
  const grabbed = useRef<number | null>(null);
  const toPixel = (frame: number) => (frame - viewport.start) / viewport.scale;
  const toFrame = (x: number) =>
    Math.min(frames, Math.max(0, Math.round(viewport.start + x * viewport.scale)));

  useEffect(() => {
    let request = 0;
    const follow = () => {
      const x = (position() - viewport.start) / viewport.scale;
      if (head.current) {
        head.current.style.transform = `translateX(${x}px)`;
        head.current.style.visibility = x < 0 || x > width ? "hidden" : "visible";
      }
      request = requestAnimationFrame(follow);
    };
    follow();
    return () => cancelAnimationFrame(request);
  }, [viewport, width, position]);

  // React's own wheel listener is passive: the page would scroll with the picture.
  useEffect(() => {
    const element = axis.current;
    if (!element) return;
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      const x = event.clientX - element.getBoundingClientRect().left;
      const sideways = Math.abs(event.deltaX) > Math.abs(event.deltaY) || event.shiftKey;
      if (sideways) onViewport((v) => pan(v, event.deltaX || event.deltaY, frames, width));
      else onViewport((v) => zoom(v, Math.exp(-event.deltaY / 300), x, frames, width));
    };
    element.addEventListener("wheel", wheel, { passive: false });
    return () => element.removeEventListener("wheel", wheel);
  }, [axis, frames, width, onViewport]);

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
    if (from === null || Math.abs(x - from) < CLICK_WITHIN) return;
    onRange([toFrame(Math.min(from, x)), toFrame(Math.max(from, x))]);
  };
  const up = (event: Pointing<HTMLElement>) => {
    const from = grabbed.current;
    grabbed.current = null;
    if (from === null || Math.abs(xOf(event) - from) >= CLICK_WITHIN) return;
    onRange(null);
    onSeek(toFrame(xOf(event)));
  };

  const shade = range && {
    left: Math.max(0, toPixel(range[0])),
    right: Math.min(width, toPixel(range[1])),
  };
  return (
    <Flex direction="column" flex={1} minH={0} pl={`${GUTTER}px`} position="relative">
      <Ruler viewport={viewport} width={width} rate={rate} frames={frames} />
      <Flex direction="column" flex={1} minH={0} gap={2}>
        {lanes.map(({ lane, playable }) => (
          <Lane
            key={lane.label}
            lane={lane}
            playable={playable}
            viewport={viewport}
            width={width}
            gain={props.gain}
            heard={props.heard === lane.label}
            dark={props.dark}
            onProblem={props.onProblem}
          />
        ))}
      </Flex>
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
      >
        {shade && shade.right > shade.left && (
          <Box
            position="absolute"
            top={0}
            bottom={0}
            bg="range"
            borderXWidth={1}
            borderColor="fg.quiet"
            left={`${shade.left}px`}
            w={`${shade.right - shade.left}px`}
          />
        )}
        <Box
          ref={head}
          position="absolute"
          top={0}
          bottom={0}
          left="-1px"
          w="2px"
          bg="fg"
          pointerEvents="none"
        />
      </Box>
    </Flex>
  );
}

function Ruler({
  viewport,
  width,
  rate,
  frames,
}: {
  viewport: Viewport;
  width: number;
  rate: number;
  frames: number;
}) {
  const step = tickStep(viewport.scale / rate);
  const decimals = decimalsOf(step);
  const first = Math.ceil(viewport.start / rate / step);
  const last = Math.floor(Math.min(frames, viewport.start + width * viewport.scale) / rate / step);
  const ticks = Array.from({ length: Math.max(0, last - first + 1) }, (_, n) => (first + n) * step);
  return (
    <Box h={5} position="relative" color="fg.quiet" fontSize="2xs" overflow="hidden" flexShrink={0}>
      {ticks.map((seconds) => (
        <Box
          key={seconds}
          position="absolute"
          left={`${(seconds * rate - viewport.start) / viewport.scale}px`}
          borderLeftWidth={1}
          borderColor="line"
          pl={1}
          whiteSpace="nowrap"
        >
          {clock(seconds, Math.min(6, decimals))}
        </Box>
      ))}
    </Box>
  );
}
