/** Where the energy is, as a fan: direction is the angle, frequency the radius; and on In the wedge, with its handles. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useCallback, useLayoutEffect, useRef, useState } from "react";
import { useMap } from "../../api/queries";
import type { WedgeSettings } from "../../api/turns";
import { type Surface, useCanvas } from "../../shared/canvas";
import { Failed } from "../../shared/Failed";
import { QuietButton } from "../../shared/parts";
import { useListen } from "./context";
import { type Fan, fanIn, piece, spotAt } from "./fanGeometry";
import { type LogAxis, logAxis } from "./frequency";
import { mapInWords, shareInWords } from "./inWords";
import { LaneFrame, PictureState } from "./LaneFrame";
import { laneName } from "./lane";
import type { ShownLane } from "./listenState";
import { COLUMNS, drawMap } from "./mapPixels";
import { useStretch } from "./useLaneAnalysis";
import { halfWidth, Wedge } from "./Wedge";

const LOWEST = 40;
const ARCS = [60, 250, 1000, 4000, 16_000];
type Props = {
  shown: ShownLane;
  wedge: WedgeSettings | null;
  /** What is left of it: what is not there any more is shown as taken. */
  left?: ShownLane | null;
  onWedge: (change: Partial<WedgeSettings>) => void;
};

export function MapLane({ shown, wedge, left = null, onWedge }: Props) {
  const { lane, playable } = shown;
  const rate = useListen((state) => state.rate);
  const { data: map, isError, refetch } = useMap(playable.view, playable.key, useStretch(shown));
  const without = useMap(
    (left ?? shown).playable.view,
    (left ?? shown).playable.key,
    useStretch(left ?? shown),
  ).data;
  const after = left ? (without ?? null) : null;
  const canvas = useCanvas(
    useCallback((surface: Surface) => map && drawMap(surface, map, after), [map, after]),
  );
  const frame = useRef<HTMLDivElement>(null);
  const { width, height } = useSize(frame);
  const [fan, axis] = [fanIn(width, height), logAxis(rate, LOWEST)];
  const words = map
    ? [mapInWords(map, COLUMNS, axis.from), wedge && shareInWords(map, COLUMNS, holdsOf(wedge, axis))]
    : [];
  return (
    <LaneFrame lane={lane} picture="map" flush>
      <Box ref={frame} flex={1} minH={0} minW={0} position="relative">
        <canvas
          ref={canvas}
          style={{ position: "absolute", inset: 0, width: "100%", height: "100%", display: "block" }}
          role="img"
          aria-label={`Energy of ${laneName(lane)} by direction and frequency. ${words.filter(Boolean).join(" ")}`}
        />
        <Frame fan={fan} axis={axis} rate={rate} />
        {!map && (
          <PictureState>{isError ? <Failed onRetry={() => void refetch()} /> : "loading…"}</PictureState>
        )}
        {wedge && <Wedge wedge={wedge} fan={fan} axis={axis} onChange={onWedge} />}
        {left && (
          <Flex
            textStyle="small"
            position="absolute"
            bottom={0}
            insetX={0}
            justify="center"
            align="center"
            columnGap={2}
            wrap="wrap"
            whiteSpace="nowrap"
          >
            <Box layerStyle="swatch" />
            <Text layerStyle="quiet">taken, by its sound</Text>
            <QuietButton
              title="Takes everything inside a wedge instead of a voice"
              onClick={() => onWedge({})}
            >
              Use a wedge instead
            </QuietButton>
          </Flex>
        )}
      </Box>
    </LaneFrame>
  );
}

/** Whether a place of the map is inside a wedge. */
function holdsOf(wedge: WedgeSettings, axis: LogAxis) {
  const half = halfWidth(wedge);
  return (pan: number, up: number) =>
    Math.abs(pan - wedge.position) <= half && up >= axis.to(wedge.low) && up <= axis.to(wedge.high);
}

/** The outline of the fan, its labelled arcs, and which end is left. */
function Frame({ fan, axis, rate }: { fan: Fan; axis: LogAxis; rate: number }) {
  const arcs = ARCS.filter((hertz) => hertz < rate / 2.1).map((hertz) => ({ hertz, up: axis.to(hertz) }));
  const [left, right] = [spotAt(fan, -1, 1), spotAt(fan, 1, 1)];
  return (
    <Box
      layerStyle="quiet"
      as="svg"
      aria-hidden
      position="absolute"
      inset={0}
      w="full"
      h="full"
      pointerEvents="none"
      fill="none"
      textStyle="small"
    >
      <path d={piece(fan, [-1, 1], [0, 1])} stroke="currentColor" strokeOpacity={0.5} />
      {arcs.map(({ hertz, up }) => {
        const at = spotAt(fan, 1, up);
        return (
          <g key={hertz}>
            <path d={piece(fan, [-1, 1], [up, up])} stroke="currentColor" strokeOpacity={0.35} />
            <text x={at.x + 5} y={at.y + 8} fill="currentColor">
              {hertz < 1000 ? hertz : `${hertz / 1000}k`}
            </text>
          </g>
        );
      })}
      <text x={left.x - 14} y={left.y - 4} fill="var(--chakra-colors-left)" fontWeight={600}>
        L
      </text>
      <text x={right.x + 6} y={right.y - 4} fill="var(--chakra-colors-right)" fontWeight={600}>
        R
      </text>
    </Box>
  );
}

/** The size of an element in pixels of the page, as it is and as it changes. */
function useSize(element: { current: HTMLElement | null }) {
  const [size, setSize] = useState({ width: 0, height: 0 });
  useLayoutEffect(() => {
    const measured = element.current;
    if (!measured) return;
    const measure = () => {
      const { width, height } = measured.getBoundingClientRect();
      setSize((old) => (old.width === width && old.height === height ? old : { width, height }));
    };
    measure();
    const observer = new ResizeObserver(measure);
    observer.observe(measured);
    return () => observer.disconnect();
  }, [element]);
  return size;
}
