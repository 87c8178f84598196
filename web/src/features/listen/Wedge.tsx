/** The wedge of a centre turn on the map, with handles that move it, open it and limit its band. */

import { Box } from "@chakra-ui/react";
import { type KeyboardEvent, type PointerEvent, useRef } from "react";
import type { WedgeSettings } from "../../api/turns";
import { panned } from "../../shared/format";
import { hertzText, type LogAxis } from "./frequency";

/** How unlike the sides of a source are that is taken by half, at an opening of 1: (1 − 2q·u²)^q = ½. */
const halfTaken = (strength: number) => Math.sqrt((1 - 0.5 ** (1 / strength)) / (2 * strength));
/** A source panned by δ from the wedge's direction has u = sin δ; the map is 90° wide. */
const halfWidth = ({ opening, strength }: WedgeSettings) =>
  clamp(Math.asin(Math.min(1, opening * halfTaken(strength))) / (Math.PI / 2), 0.012, 0.5);
const openingOf = (half: number, strength: number) => Math.sin(half * (Math.PI / 2)) / halfTaken(strength);

const clamp = (value: number, low: number, high: number) => Math.max(low, Math.min(high, value));

type Handle = "position" | "opening" | "low" | "high";
/** The least and the most of a handle; those of the band end with the axis. */
const LIMITS: Partial<Record<Handle, readonly [number, number]>> = { position: [-1, 1], opening: [0.3, 3] };

/** The wedge as a shape: its body moves it, its sides open it, its ends limit its band. */
export function Wedge(props: {
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
  const slider = (
    handle: Handle,
    label: string,
    [less, more]: readonly [string, string],
    by: (sign: 1 | -1) => Partial<WedgeSettings>,
    text: string,
  ) => ({
    tabIndex: 0,
    role: "slider",
    "aria-label": `Wedge: ${label}`,
    "aria-orientation":
      handle === "low" || handle === "high" ? ("vertical" as const) : ("horizontal" as const),
    "aria-valuemin": LIMITS[handle]?.[0] ?? 0,
    "aria-valuemax": LIMITS[handle]?.[1] ?? axis.from(1),
    "aria-valuenow": wedge[handle],
    "aria-valuetext": text,
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
  // A dot, with room around it for the finger.
  const dot = {
    w: "24px",
    h: "24px",
    borderRadius: "full",
    position: "absolute",
    touchAction: "none",
    _before: { content: '""', position: "absolute", inset: "6px", borderRadius: "full", bg: "fg" },
  } as const;
  const place = (x: number, up: number) => ({
    left: `calc(${100 * x}% - 12px)`,
    bottom: `calc(${100 * up}% - 12px)`,
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
        {...slider(
          "position",
          "position",
          ["ArrowLeft", "ArrowRight"],
          (s) => ({ position: Math.round(clamp(wedge.position + s * 0.02, -1, 1) * 50) / 50 }),
          panned(wedge.position),
        )}
      />
      {[-1, 1].map((sign) => (
        <Box
          key={sign}
          {...dot}
          cursor="ew-resize"
          {...place(clamp(centre + sign * half, 0, 1), middle)}
          {...slider(
            "opening",
            sign < 0 ? "opening, left edge" : "opening, right edge",
            sign < 0 ? ["ArrowRight", "ArrowLeft"] : ["ArrowLeft", "ArrowRight"],
            (s) => ({ opening: Math.round(clamp(wedge.opening + s * 0.05, 0.3, 3) * 20) / 20 }),
            `× ${wedge.opening.toFixed(2)}`,
          )}
        />
      ))}
      <Box
        {...dot}
        cursor="ns-resize"
        {...place(centre, bottom)}
        {...slider(
          "low",
          "low",
          ["ArrowDown", "ArrowUp"],
          (s) => ({
            low: Math.round(
              clamp(Math.max(wedge.low, axis.lowest) * 1.04 ** s, axis.lowest, wedge.high / 1.5),
            ),
          }),
          wedge.low > 0 ? hertzText(wedge.low) : "no limit",
        )}
      />
      <Box
        {...dot}
        cursor="ns-resize"
        {...place(centre, top)}
        {...slider(
          "high",
          "high",
          ["ArrowDown", "ArrowUp"],
          (s) => ({ high: Math.round(clamp(wedge.high * 1.04 ** s, wedge.low * 1.5, axis.from(1))) }),
          wedge.high < axis.from(1) ? hertzText(wedge.high) : "no limit",
        )}
      />
    </Box>
  );
}
