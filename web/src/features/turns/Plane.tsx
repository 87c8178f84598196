/** The turn as a movement in the plane of the stereo field: mid stands upright, left and right lean to their sides. */
import { Flex } from "@chakra-ui/react";
import type { Step } from "../../api/client";

const CENTRE = { x: 110, y: 62 };
const LENGTH = 50;

/** Where a side points: 45° to its side of mid. */
const tip = (side: "L" | "R", length = LENGTH) => ({
  x: CENTRE.x + (side === "L" ? -1 : 1) * length * Math.SQRT1_2,
  y: CENTRE.y - length * Math.SQRT1_2,
});

export function Plane({ step }: { step: Step }) {
  const { kind } = step.turn;
  const many = kind === "split" && step.outputs.length > 2;
  return (
    <Flex justify="center" bg="raised" borderRadius="md" py={1}>
      <svg
        width={220}
        height={78}
        viewBox="0 0 220 78"
        role="img"
        aria-label={label(kind, step.outputs.length)}
      >
        <path d={`M60 62 A50 50 0 0 1 160 62`} fill="none" stroke="var(--chakra-colors-line)" />
        {many && <Fan lines={step.outputs.length} />}
        {(many ? [] : (["L", "R"] as const)).map((side) => {
          const color = `var(--chakra-colors-${side === "L" ? "left" : "right"})`;
          const end = tip(side);
          const apart = kind === "split" ? (side === "L" ? -34 : 34) : 0;
          return (
            <g key={side} transform={`translate(${apart} 0)`} stroke={color} fill={color}>
              <line
                x1={CENTRE.x}
                y1={CENTRE.y}
                x2={end.x}
                y2={end.y}
                strokeWidth={4}
                strokeLinecap="round"
                strokeDasharray={side === "R" ? "7 6" : undefined}
              />
              <text
                x={tip(side, LENGTH + 12).x}
                y={tip(side, LENGTH + 12).y + 4}
                fontSize={12}
                fontWeight={700}
                textAnchor="middle"
                stroke="none"
              >
                {side}
              </text>
            </g>
          );
        })}
      </svg>
    </Flex>
  );
}

/** More channels than two sides: a line for each, from left to right. */
function Fan({ lines }: { lines: number }) {
  const angles = Array.from({ length: lines }, (_, n) => ((n / (lines - 1)) * 2 - 1) * (Math.PI / 3));
  return angles.map((angle) => (
    <line
      key={angle}
      x1={CENTRE.x + 12 * Math.sin(angle)}
      y1={CENTRE.y - 12 * Math.cos(angle)}
      x2={CENTRE.x + LENGTH * Math.sin(angle)}
      y2={CENTRE.y - LENGTH * Math.cos(angle)}
      strokeWidth={3}
      strokeLinecap="round"
      stroke="var(--chakra-colors-mid)"
    />
  ));
}

function label(kind: Step["turn"]["kind"], outputs: number): string {
  switch (kind) {
    case "merge":
      return "Left and right start from one point: one stereo file";
    case "split":
      return `The channels stand apart: ${outputs} mono files`;
    default:
      return kind satisfies never;
  }
}
