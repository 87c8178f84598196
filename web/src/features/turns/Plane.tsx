/**
 * The turn in the plane of the stereo field, mid upwards: where each channel goes, as an arrow, and what can be set by
 * dragging it. What points down is inverted; the circle holds every direction.
 */
import { Flex } from "@chakra-ui/react";
import type { Step } from "../../api/client";
import { kindOf } from "./kinds";
import { PlaneHandles } from "./PlaneHandles";
import * as plane from "./planeHandles";
import type { Change } from "./settings/common";

const [WIDTH, HEIGHT] = [260, 140];
const CENTRE = { x: WIDTH / 2, y: HEIGHT / 2 };
const REACH = 60;

type Axis = { letter: string; color: string; x: number; y: number };
const LEFT: Axis = { letter: "L", color: "left", ...plane.LEFT };
const RIGHT: Axis = { letter: "R", color: "right", ...plane.RIGHT };
const MID: Axis = { letter: "M", color: "mid", x: 0, y: -1 };
const SIDE: Axis = { letter: "S", color: "side", x: -1, y: 0 };
const AXES = { "left-right": [LEFT, RIGHT], "mid-side": [MID, SIDE] };

/** Whether channels in and out are left and right, mid and side, or one. */
function axes(step: Step): { ins: Axis[]; outs: Axis[] } | null {
  const [rows, columns] = [step.matrix.length, step.matrix[0]?.length ?? 0];
  if (columns !== 2 || rows > 2) return null;
  const { before, after } = kindOf(step.turn).axes(step);
  return { ins: AXES[before], outs: rows === 1 ? [MID] : AXES[after] };
}

export function Plane({ step, onChange }: { step: Step; onChange: (change: Change) => void }) {
  const shown = axes(step);
  const kind = kindOf(step.turn);
  const sideBySide = kind.figure === "side by side";
  const handles = shown ? kind.handles(step.turn) : [];
  const tips = shown ? tipsOf(step, shown) : [];
  const scale = scaleOf([...tips, ...handles.map(({ at }) => at)]);
  return (
    <Flex layerStyle="panel" justify="center" py={1}>
      <svg
        width={WIDTH}
        height={HEIGHT}
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        role={handles.length ? "group" : "img"}
        aria-label={label(step)}
      >
        <circle cx={CENTRE.x} cy={CENTRE.y} r={REACH} fill="none" stroke="var(--chakra-colors-line)" />
        {shown ? (
          <Sent {...shown} tips={tips} scale={scale} sideBySide={sideBySide} tipped={handles.length > 0} />
        ) : (
          <Fan lines={step.matrix.length} />
        )}
        <PlaneHandles
          handles={handles}
          centre={CENTRE}
          scale={scale}
          onChange={(turn) => onChange({ turn })}
        />
      </svg>
    </Flex>
  );
}

/** What reaches beyond the circle shrinks the picture instead of leaving it. */
function scaleOf(points: plane.Point[]): number {
  return (REACH - 12) / Math.max(1, ...points.map(({ x, y }) => Math.hypot(x, y)));
}

/** Where each channel that goes in is sent: a column of the matrix, among the axes of what comes out. */
const tipsOf = (step: Step, { ins, outs }: { ins: Axis[]; outs: Axis[] }): plane.Point[] =>
  ins.map((_, column) => {
    let [x, y] = [0, 0];
    outs.forEach((axis, row) => {
      const amount = step.matrix[row]?.[column] ?? 0;
      x += amount * axis.x;
      y += amount * axis.y;
    });
    return { x, y };
  });

type SentProps = {
  ins: Axis[];
  outs: Axis[];
  tips: plane.Point[];
  scale: number;
  sideBySide: boolean;
  tipped: boolean;
};

/** An arrow for each channel that goes in. */
function Sent({ ins, outs, tips, scale, sideBySide, tipped }: SentProps) {
  const overlap =
    tips.length === 2 &&
    Math.hypot((tips[0]?.x ?? 0) - (tips[1]?.x ?? 0), (tips[0]?.y ?? 0) - (tips[1]?.y ?? 0)) < 0.2;
  return (
    <>
      {outs.map((axis) => (
        <line
          key={axis.letter}
          x1={CENTRE.x}
          y1={CENTRE.y}
          x2={CENTRE.x + axis.x * REACH}
          y2={CENTRE.y + axis.y * REACH}
          stroke="var(--chakra-colors-line)"
          strokeDasharray="2 4"
        />
      ))}
      {ins.map((axis, n) => {
        const tip = tips[n] ?? { x: 0, y: 0 };
        const length = Math.hypot(tip.x, tip.y);
        const shift = sideBySide ? axis.x * 48 : overlap ? (n ? 6 : -6) : 0;
        const end = { x: CENTRE.x + tip.x * scale, y: CENTRE.y + tip.y * scale };
        const reach = length ? (length * scale + (tipped ? 17 : 11)) / (length * scale) : 0;
        const color = `var(--chakra-colors-${axis.color})`;
        return (
          <g key={axis.letter} stroke={color} fill={color} transform={`translate(${shift} 0)`}>
            <line
              x1={CENTRE.x}
              y1={CENTRE.y}
              x2={end.x}
              y2={end.y}
              strokeWidth={4}
              strokeLinecap="round"
              strokeDasharray={axis === RIGHT || axis === SIDE ? "7 6" : undefined}
            />
            <text
              x={CENTRE.x + tip.x * scale * reach + (overlap ? (n ? 8 : -8) : 0)}
              y={CENTRE.y + tip.y * scale * reach + 4}
              fontSize={12}
              fontWeight={700}
              textAnchor="middle"
              stroke="none"
            >
              {length ? axis.letter : ""}
            </text>
          </g>
        );
      })}
    </>
  );
}

/** More than two channels: a line for each, from left to right. */
function Fan({ lines }: { lines: number }) {
  const angles = Array.from({ length: lines }, (_, n) =>
    lines > 1 ? ((n / (lines - 1)) * 2 - 1) * (Math.PI / 3) : 0,
  );
  return angles.map((angle) => (
    <line
      key={angle}
      x1={CENTRE.x + 12 * Math.sin(angle)}
      y1={CENTRE.y - 12 * Math.cos(angle)}
      x2={CENTRE.x + (REACH - 8) * Math.sin(angle)}
      y2={CENTRE.y - (REACH - 8) * Math.cos(angle)}
      strokeWidth={3}
      strokeLinecap="round"
      stroke="var(--chakra-colors-mid)"
    />
  ));
}

function label(step: Step): string {
  const { kind } = step.turn;
  if (kind === "split") return `${step.outputs.length} separate files`;
  if (kind === "merge") return `One file with ${step.matrix.length} channels`;
  return `Where each channel goes: ${step.sentence}`;
}
