/** The wedge of a centre turn on the map's fan, with handles that move it, open it and limit its band. */

import { Box } from "@chakra-ui/react";
import { type KeyboardEvent, type PointerEvent, useRef } from "react";
import type { WedgeSettings } from "../../api/turns";
import { panned } from "../../shared/format";
import { type Fan, piece, placeAt, spotAt } from "./fanGeometry";
import { hertzText, type LogAxis } from "./frequency";

/** How far to the side a source is that is removed by half, at an opening of 1: (1 − u)^q = ½. */
const halfTaken = (strength: number) => 1 - 0.5 ** (1 / strength);
/** In pan, from the middle to an edge. A source panned by δ from the wedge has u = sin δ; left to right are 90°. */
export const halfWidth = ({ opening, strength }: WedgeSettings) =>
  clamp(Math.asin(Math.min(1, opening * halfTaken(strength))) / (Math.PI / 4), 0.024, 1);
const openingOf = (half: number, strength: number) => Math.sin(half * (Math.PI / 4)) / halfTaken(strength);

const clamp = (value: number, low: number, high: number) => Math.max(low, Math.min(high, value));

type Handle = "position" | "opening" | "low" | "high";
/** The least and the most of a handle; those of the band end with the axis. */
const LIMITS: Partial<Record<Handle, readonly [number, number]>> = { position: [-1, 1], opening: [0.3, 3] };

/** A piece of the fan: its body moves it, its edges open it, its arcs limit its band. */
export function Wedge(props: {
  wedge: WedgeSettings;
  fan: Fan;
  axis: LogAxis;
  onChange: (change: Partial<WedgeSettings>) => void;
}) {
  const { wedge, fan, axis, onChange } = props;
  const box = useRef<HTMLDivElement>(null);
  const grabbed = useRef<{ handle: Handle; pan: number; position: number } | null>(null);
  const half = halfWidth(wedge);
  const [left, right] = [clamp(wedge.position - half, -1, 1), clamp(wedge.position + half, -1, 1)];
  const [bottom, top] = [axis.to(wedge.low), axis.to(wedge.high)];
  const placeOf = (event: PointerEvent) => {
    const area = box.current?.getBoundingClientRect();
    return placeAt(fan, { x: event.clientX - (area?.left ?? 0), y: event.clientY - (area?.top ?? 0) });
  };
  const to = (handle: Handle, event: PointerEvent) => {
    const { pan, up } = placeOf(event);
    const start = grabbed.current;
    if (handle === "position" && start)
      onChange({ position: Math.round(clamp(start.position + pan - start.pan, -1, 1) * 50) / 50 });
    if (handle === "opening") {
      const opening = openingOf(Math.min(1, Math.abs(pan - wedge.position)), wedge.strength);
      onChange({ opening: Math.round(clamp(opening, 0.3, 3) * 20) / 20 });
    }
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
    onPointerDown: (event: PointerEvent<HTMLElement | SVGElement>) => {
      if (event.button !== 0) return;
      event.currentTarget.setPointerCapture(event.pointerId);
      grabbed.current = { handle, pan: placeOf(event).pan, position: wedge.position };
    },
    onPointerMove: (event: PointerEvent<HTMLElement | SVGElement>) =>
      grabbed.current?.handle === handle && to(handle, event),
    onPointerUp: letGo,
    onPointerCancel: letGo,
    onLostPointerCapture: letGo,
    onKeyDown: (event: KeyboardEvent<HTMLElement | SVGElement>) => {
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
    pointerEvents: "auto",
    _before: { content: '""', position: "absolute", inset: "6px", borderRadius: "full", bg: "fg" },
  } as const;
  const place = (pan: number, up: number) => {
    const { x, y } = spotAt(fan, pan, up);
    return { style: { left: x - 12, top: y - 12 } };
  };
  const middle = (bottom + top) / 2;
  return (
    <Box ref={box} position="absolute" inset={0} pointerEvents="none" data-testid="wedge">
      <Box as="svg" position="absolute" inset={0} w="full" h="full" pointerEvents="none" color="fg">
        <path
          d={piece(fan, [left, right], [bottom, top])}
          fill="currentColor"
          fillOpacity={0.12}
          stroke="currentColor"
          strokeWidth={2}
          style={{ cursor: "ew-resize", touchAction: "none", pointerEvents: "all" }}
          {...slider(
            "position",
            "position",
            ["ArrowLeft", "ArrowRight"],
            (s) => ({ position: Math.round(clamp(wedge.position + s * 0.02, -1, 1) * 50) / 50 }),
            panned(wedge.position),
          )}
        />
      </Box>
      {[-1, 1].map((sign) => (
        <Box
          key={sign}
          {...dot}
          cursor="ew-resize"
          {...place(sign < 0 ? left : right, middle)}
          {...slider(
            "opening",
            sign < 0 ? "left edge" : "right edge",
            sign < 0 ? ["ArrowRight", "ArrowLeft"] : ["ArrowLeft", "ArrowRight"],
            (s) => ({ opening: Math.round(clamp(wedge.opening + s * 0.05, 0.3, 3) * 20) / 20 }),
            `× ${wedge.opening.toFixed(2)}`,
          )}
        />
      ))}
      <Box
        {...dot}
        cursor="ns-resize"
        {...place(wedge.position, bottom)}
        {...slider(
          "low",
          "low limit",
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
        {...place(wedge.position, top)}
        {...slider(
          "high",
          "high limit",
          ["ArrowDown", "ArrowUp"],
          (s) => ({ high: Math.round(clamp(wedge.high * 1.04 ** s, wedge.low * 1.5, axis.from(1))) }),
          wedge.high < axis.from(1) ? hertzText(wedge.high) : "no limit",
        )}
      />
    </Box>
  );
}
