/** A small picture of where the energy lies: a fan from side through left, mid and right to side. */
import type { Group, Source } from "../../api/client";

const [WIDTH, HEIGHT] = [30, 22];
const CENTRE = { x: WIDTH / 2, y: HEIGHT - 3 };
const REACH = 17;
/** Where a speaker stands, in degrees from the front; left is positive, as in the field. */
const SPEAKERS: Record<string, number> = {
  FL: 30,
  FR: -30,
  FC: 0,
  LFE: 0,
  SL: 75,
  SR: -75,
  BL: 110,
  BR: -110,
};

export function Glyph({ source, group }: { source: Source; group: Group | null }) {
  return (
    <svg
      width={WIDTH}
      height={HEIGHT}
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      aria-hidden="true"
      style={{ flexShrink: 0 }}
    >
      {lines(source, group).map(({ angle, length, color }) => {
        const turned = (angle * Math.PI) / 180;
        return (
          <line
            key={angle}
            x1={CENTRE.x}
            y1={CENTRE.y}
            x2={CENTRE.x - Math.sin(turned) * length * REACH * 0.85}
            y2={CENTRE.y - Math.cos(turned) * length * REACH}
            strokeWidth={source.field.length ? 1.6 : 2.5}
            strokeLinecap="round"
            stroke={`var(--chakra-colors-${color})`}
          />
        );
      })}
      {source.channels > 2 && (
        <text x={CENTRE.x} y={11} fontSize={12} textAnchor="middle" fill="var(--chakra-colors-fg)">
          {source.channels}
        </text>
      )}
    </svg>
  );
}

type Line = { angle: number; length: number; color: string };

function lines(source: Source, group: Group | null): Line[] {
  const { field, channels, ref } = source;
  const loudest = Math.max(...field);
  if (field.length && loudest > 0)
    return field.flatMap((share, n) => {
      const angle = -90 + ((n + 0.5) * 180) / field.length;
      const length = Math.sqrt(share / loudest);
      return length < 0.12 ? [] : [{ angle, length, color: colorAt(angle) }];
    });
  if (channels !== 1)
    return [
      { angle: 45, length: 0.9, color: "left" },
      { angle: -45, length: 0.9, color: "right" },
    ];
  const at = group?.members.indexOf(ref) ?? -1;
  if (!group || at < 0) return [{ angle: 0, length: 0.9, color: "mid" }];
  if (group.kind === "mid-side")
    return at === 0
      ? [{ angle: 0, length: 0.9, color: "mid" }]
      : [
          { angle: 80, length: 0.8, color: "side" },
          { angle: -80, length: 0.8, color: "side" },
        ];
  const angle = SPEAKERS[group.speakers[at] ?? ""] ?? 0;
  const wide = group.kind === "stereo-pair" ? Math.sign(angle) * 45 : angle;
  return [{ angle: wide, length: 0.9, color: wide > 0 ? "left" : wide < 0 ? "right" : "mid" }];
}

const colorAt = (angle: number) =>
  Math.abs(angle) > 67.5 ? "side" : angle > 12 ? "left" : angle < -12 ? "right" : "mid";
