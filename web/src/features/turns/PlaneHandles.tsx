/** The handles of the plane: dragged with the pointer, or moved by arrow keys, with Shift in large steps. */
import { type KeyboardEvent, type PointerEvent, useRef } from "react";
import type { PlaneHandle, Point } from "./planeHandles";

type Props<T> = {
  handles: PlaneHandle<T>[];
  /** The origin of the plane in the picture, and how many of its pixels a full level reaches. */
  centre: Point;
  scale: number;
  onChange: (turn: T) => void;
};

const STEPS: Record<string, number> = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 };
const LARGE = 10;

export function PlaneHandles<T>({ handles, centre, scale, onChange }: Props<T>) {
  // While it is dragged the picture keeps its scale, else the tip would run away from the pointer.
  const held = useRef<{ n: number; scale: number } | null>(null);
  const pointOf = (event: PointerEvent<SVGElement>, by: number): Point => {
    const box = event.currentTarget.ownerSVGElement?.getBoundingClientRect();
    return {
      x: (event.clientX - (box?.left ?? 0) - centre.x) / by,
      y: (event.clientY - (box?.top ?? 0) - centre.y) / by,
    };
  };
  const letGo = () => {
    held.current = null;
  };
  return handles.map((handle, n) => (
    <g
      key={handle.label}
      transform={`translate(${centre.x + handle.at.x * scale} ${centre.y + handle.at.y * scale})`}
    >
      <circle r={5} fill="var(--chakra-colors-raised)" stroke="var(--chakra-colors-fg)" strokeWidth={2} />
      <circle
        r={12}
        fill="transparent"
        style={{ cursor: "grab", touchAction: "none" }}
        tabIndex={0}
        role="slider"
        aria-label={`${handle.label}, in the picture`}
        aria-valuenow={Number(Math.hypot(handle.at.x, handle.at.y).toFixed(3))}
        aria-valuetext={handle.text}
        onPointerDown={(event) => {
          if (event.button !== 0) return;
          event.currentTarget.setPointerCapture(event.pointerId);
          held.current = { n, scale };
        }}
        onPointerMove={(event) => {
          if (held.current?.n === n) onChange(handle.moved(pointOf(event, held.current.scale)));
        }}
        onPointerUp={letGo}
        onPointerCancel={letGo}
        onLostPointerCapture={letGo}
        onKeyDown={(event: KeyboardEvent) => {
          const step = STEPS[event.key];
          if (!step) return;
          event.preventDefault();
          event.stopPropagation();
          onChange(handle.stepped(event.shiftKey ? LARGE * step : step));
        }}
      />
    </g>
  ));
}
