/** Where the energy is: direction across, frequency up, brightness for energy; and on In the wedge, with its handles. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { type KeyboardEvent, type PointerEvent, useCallback, useRef } from "react";
import { useMap } from "../../api/queries";
import { type Surface, useCanvas } from "../../shared/canvas";
import { Failed } from "../../shared/Failed";
import { useListen } from "./context";
import { FrequencyLabels } from "./FrequencyLabels";
import { type LogAxis, logAxis } from "./frequency";
import { PictureState, useIsHeard } from "./LaneFrame";
import { laneName } from "./lane";
import type { ShownLane } from "./session";
import { useStretch } from "./useLaneAnalysis";

const [ROWS, COLUMNS] = [96, 61];
const LOWEST = 40;
const FLOOR = -55;
const TICKS = [60, 250, 1000, 4000, 16_000];
/** How unlike the sides of a source are that is taken by half, at an opening of 1: (1 − 2q·u²)^q = ½. */
const halfTaken = (strength: number) => Math.sqrt((1 - 0.5 ** (1 / strength)) / (2 * strength));
/** A source panned by δ from the wedge's direction has u = sin δ; the map is 90° wide. */
const halfWidth = ({ opening, strength }: WedgeSettings) =>
  clamp(Math.asin(Math.min(1, opening * halfTaken(strength))) / (Math.PI / 2), 0.012, 0.5);
const openingOf = (half: number, strength: number) => Math.sin(half * (Math.PI / 2)) / halfTaken(strength);

export type WedgeSettings = {
  position: number;
  opening: number;
  strength: number;
  low: number;
  high: number;
};
type Props = {
  shown: ShownLane;
  wedge: WedgeSettings | null;
  onWedge: (change: Partial<WedgeSettings>) => void;
};

export function MapLane({ shown, wedge, onWedge }: Props) {
  const { lane, playable } = shown;
  const rate = useListen((state) => state.rate);
  const heard = useIsHeard(lane.label);
  const { data: map, isError, refetch } = useMap(playable.view, playable.key, useStretch(shown));
  const canvas = useCanvas(useCallback((surface: Surface) => map && drawMap(surface, map), [map]));
  const axis = logAxis(rate, LOWEST);
  return (
    <Flex
      direction="column"
      flex={1}
      minH={0}
      minW={0}
      gap={1}
      data-testid={`map-${lane.label.toLowerCase()}`}
    >
      <Flex gap={2} align="baseline">
        <Text fontWeight={700} color={heard ? "fg" : "fg.quiet"}>
          {lane.label}
        </Text>
        <Text truncate title={laneName(lane)}>
          {laneName(lane)}
        </Text>
      </Flex>
      <Flex flex={1} minH={0}>
        <Box w={8} flexShrink={0} position="relative">
          <FrequencyLabels
            ticks={TICKS}
            rate={rate}
            place={(hertz) => ({
              right: 1.5,
              bottom: `${100 * axis.to(hertz)}%`,
              transform: "translateY(50%)",
            })}
          />
        </Box>
        <Box flex={1} position="relative" minW={0}>
          <canvas
            ref={canvas}
            style={{ width: "100%", height: "100%", display: "block", borderRadius: 4 }}
            role="img"
            aria-label={`Energy of ${laneName(lane)} by direction and frequency`}
          />
          {!map && (
            <PictureState>{isError ? <Failed onRetry={() => void refetch()} /> : "loading…"}</PictureState>
          )}
          {wedge && <Wedge wedge={wedge} axis={axis} onChange={onWedge} />}
        </Box>
      </Flex>
      <Flex pl={8} justify="space-between" fontSize="xs" fontWeight={700}>
        <Text color="left">L</Text>
        <Text color="fg.quiet" fontWeight={400}>
          direction
        </Text>
        <Text color="right">R</Text>
      </Flex>
    </Flex>
  );
}

/** Brightness for energy, in the colours of the directions. */
function drawMap({ context, width, height, colors }: Surface, map: Float32Array) {
  const image = new ImageData(COLUMNS, ROWS);
  const [ground, left, mid, right] = [colors.ground, colors.left, colors.mid, colors.right].map(rgb);
  for (let row = 0; row < ROWS; row++)
    for (let column = 0; column < COLUMNS; column++) {
      const loud = Math.max(0, Math.min(1, 1 - (map[row * COLUMNS + column] ?? FLOOR) / FLOOR)) ** 1.4;
      const lean = Math.abs(column / (COLUMNS - 1) - 0.5) * 2;
      const side = column < COLUMNS / 2 ? left : right;
      const at = 4 * ((ROWS - 1 - row) * COLUMNS + column);
      for (let n = 0; n < 3; n++) {
        const hue = (mid?.[n] ?? 0) * (1 - lean) + (side?.[n] ?? 0) * lean;
        image.data[at + n] = (ground?.[n] ?? 0) * (1 - loud) + hue * loud;
      }
      image.data[at + 3] = 255;
    }
  const small = new OffscreenCanvas(COLUMNS, ROWS);
  small.getContext("2d")?.putImageData(image, 0, 0);
  context.drawImage(small, 0, 0, width, height);
}

const clamp = (value: number, low: number, high: number) => Math.max(low, Math.min(high, value));

type Handle = "position" | "opening" | "low" | "high";

/** The wedge as a shape: its body moves it, its sides open it, its ends limit its band. */
function Wedge(props: {
  wedge: WedgeSettings;
  axis: LogAxis;
  onChange: (change: Partial<WedgeSettings>) => void;
}) {
  const { wedge, axis, onChange } = props;
  const box = useRef<HTMLDivElement>(null);
  const grabbed = useRef<{ handle: Handle; x: number; position: number } | null>(null);
  const centre = 0.5 + wedge.position / 2;
  const half = halfWidth(wedge);
  const [bottom, top] = [axis.to(wedge.low), axis.to(wedge.high)];
  const to = (handle: Handle, event: PointerEvent) => {
    const area = box.current?.getBoundingClientRect();
    if (!area) return;
    const x = (event.clientX - area.left) / area.width;
    const up = 1 - (event.clientY - area.top) / area.height;
    const start = grabbed.current;
    if (handle === "position" && start)
      onChange({ position: Math.round(clamp(start.position + 2 * (x - start.x), -1, 1) * 50) / 50 });
    if (handle === "opening")
      onChange({
        opening: Math.round(clamp(openingOf(Math.abs(x - centre), wedge.strength), 0.3, 3) * 20) / 20,
      });
    if (handle === "low") onChange({ low: Math.round(Math.min(axis.from(up), wedge.high / 1.5)) });
    if (handle === "high") onChange({ high: Math.round(Math.max(axis.from(up), wedge.low * 1.5)) });
  };
  const letGo = () => {
    grabbed.current = null;
  };
  const hands = (
    handle: Handle,
    less: string,
    more: string,
    by: (sign: 1 | -1) => Partial<WedgeSettings>,
    value: number,
  ) => ({
    tabIndex: 0,
    role: "slider",
    "aria-label": `Wedge: ${handle}`,
    "aria-valuenow": value,
    onPointerDown: (event: PointerEvent<HTMLElement>) => {
      event.currentTarget.setPointerCapture(event.pointerId);
      const area = box.current?.getBoundingClientRect();
      grabbed.current = {
        handle,
        x: area ? (event.clientX - area.left) / area.width : 0,
        position: wedge.position,
      };
    },
    onPointerMove: (event: PointerEvent<HTMLElement>) =>
      grabbed.current?.handle === handle && to(handle, event),
    onPointerUp: letGo,
    onPointerCancel: letGo,
    onLostPointerCapture: letGo,
    onKeyDown: (event: KeyboardEvent<HTMLElement>) => {
      const sign = event.key === more ? 1 : event.key === less ? -1 : 0;
      if (!sign) return;
      event.preventDefault();
      event.stopPropagation();
      onChange(by(sign));
    },
  });
  const dot = {
    w: "12px",
    h: "12px",
    borderRadius: "full",
    bg: "fg",
    position: "absolute",
    touchAction: "none",
  } as const;
  const place = (x: number, up: number) => ({
    left: `calc(${100 * x}% - 6px)`,
    bottom: `calc(${100 * up}% - 6px)`,
  });
  const middle = (bottom + top) / 2;
  return (
    <Box ref={box} position="absolute" inset={0} data-testid="wedge">
      <Box
        position="absolute"
        borderWidth={2}
        borderColor="fg"
        bg="fg/10"
        cursor="ew-resize"
        touchAction="none"
        left={`${100 * (centre - half)}%`}
        w={`${200 * half}%`}
        bottom={`${100 * bottom}%`}
        h={`${100 * (top - bottom)}%`}
        {...hands(
          "position",
          "ArrowLeft",
          "ArrowRight",
          (s) => ({ position: Math.round(clamp(wedge.position + s * 0.02, -1, 1) * 50) / 50 }),
          wedge.position,
        )}
      />
      {[-1, 1].map((sign) => (
        <Box
          key={sign}
          {...dot}
          cursor="ew-resize"
          {...place(clamp(centre + sign * half, 0, 1), middle)}
          {...hands(
            "opening",
            "ArrowLeft",
            "ArrowRight",
            (s) => ({ opening: Math.round(clamp(wedge.opening + s * 0.05, 0.3, 3) * 20) / 20 }),
            wedge.opening,
          )}
        />
      ))}
      <Box
        {...dot}
        cursor="ns-resize"
        {...place(centre, bottom)}
        {...hands(
          "low",
          "ArrowDown",
          "ArrowUp",
          (s) => ({ low: Math.round(clamp(wedge.low * 1.04 ** s, LOWEST, wedge.high / 1.5)) }),
          wedge.low,
        )}
      />
      <Box
        {...dot}
        cursor="ns-resize"
        {...place(centre, top)}
        {...hands(
          "high",
          "ArrowDown",
          "ArrowUp",
          (s) => ({ high: Math.round(clamp(wedge.high * 1.04 ** s, wedge.low * 1.5, axis.from(1))) }),
          wedge.high,
        )}
      />
    </Box>
  );
}

/** A colour of the theme as numbers; the theme writes #rrggbb. */
function rgb(color: string | undefined): [number, number, number] {
  const value = Number.parseInt((color ?? "#000000").slice(1), 16);
  return [(value >> 16) & 255, (value >> 8) & 255, value & 255];
}
