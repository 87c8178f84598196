/** A lane along frequency: the spectrum of both sides, or of mid and side; or the correlation of each band. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { type PointerEvent, useEffect, useRef, useState } from "react";
import type { Analysis } from "../../api/client";
import { signed } from "../../shared/format";
import { FrequencyLabels } from "./FrequencyLabels";
import { type LaneClips, laneName } from "./lane";
import { colors, prepared } from "./paint";
import { columns, fromAxis, hertzText, noteOf, toAxis } from "./views";

const [TOP, BOTTOM] = [0, -120];
const HARMONICS = 12;
const TICKS = [30, 60, 125, 250, 500, 1000, 2000, 4000, 8000, 16_000];

type Props = {
  lane: LaneClips;
  analysis: Analysis | undefined;
  view: "spectrum" | "bands";
  midSide: boolean;
  rate: number;
  width: number;
  heard: boolean;
  dark: boolean;
  /** The frequency under the pointer, shared by both lanes. */
  pointed: number | null;
  onPoint: (hertz: number | null) => void;
};

export function AnalysisLane(props: Props) {
  const { lane, analysis, view, midSide, rate, width, heard, dark, pointed, onPoint } = props;
  const canvas = useRef<HTMLCanvasElement>(null);
  const [height, setHeight] = useState(0);
  // biome-ignore lint/correctness/useExhaustiveDependencies: colours and size follow the page
  useEffect(() => {
    const made = prepared(canvas.current);
    if (!made) return;
    setHeight(made.height);
    if (!analysis) return;
    if (view === "spectrum") drawSpectrum(made, analysis, rate, midSide);
    else drawBands(made, analysis, rate);
  }, [analysis, view, midSide, rate, width, dark]);
  const point = (event: PointerEvent<HTMLElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    onPoint(fromAxis(Math.max(0, Math.min(1, (event.clientX - box.left) / box.width)), rate));
  };
  const step = analysis?.step_hz ?? 1;
  const at = pointed === null ? null : Math.round(pointed / step);
  const read = (levels: readonly number[] | undefined) =>
    at === null || !levels?.length ? "" : `${signed(levels[Math.min(levels.length - 1, at)] ?? -180)} dB`;
  const [one, two] = midSide ? [analysis?.mid, analysis?.side] : [analysis?.left, analysis?.right];
  const band =
    pointed === null
      ? undefined
      : analysis?.bands.find(({ hz }) => pointed >= hz * 10 ** -0.05 && pointed < hz * 10 ** 0.05);
  return (
    <Flex direction="column" flex={1} minH={0} gap={1} data-testid={`${view}-${lane.label.toLowerCase()}`}>
      <Flex gap={2} align="baseline" minW={0} ml="-28px">
        <Text fontWeight={700} minW={7} color={heard ? "fg" : "fg.quiet"}>
          {lane.label}
        </Text>
        <Text truncate>{laneName(lane)}</Text>
        {pointed !== null && (
          <Flex gap={3} ml="auto" fontFamily="mono" fontSize="xs" flexShrink={0} data-testid="readout">
            <Text>{hertzText(pointed)}</Text>
            {view === "spectrum" ? (
              <>
                <Text color="fg.quiet">{noteOf(pointed)}</Text>
                <Text color={midSide ? "mid" : "left"}>
                  {midSide ? "M" : analysis?.right.length ? "L" : ""} {read(one)}
                </Text>
                {two && two.length > 0 && (
                  <Text color={midSide ? "side" : "right"}>
                    {midSide ? "S" : "R"} {read(two)}
                  </Text>
                )}
              </>
            ) : (
              <Text>{band?.correlation === null || !band ? "silent" : signed(band.correlation, 2)}</Text>
            )}
          </Flex>
        )}
      </Flex>
      <Box flex={1} minH={12} position="relative" onPointerMove={point} onPointerLeave={() => onPoint(null)}>
        <canvas
          ref={canvas}
          style={{ width: "100%", height: "100%", display: "block" }}
          role="img"
          aria-label={`${view === "spectrum" ? "Spectrum" : "Correlation by frequency band"} of ${laneName(lane)}`}
        />
        {pointed !== null &&
          Array.from({ length: view === "spectrum" ? HARMONICS : 1 }, (_, n) => pointed * (n + 1))
            .filter((hertz) => hertz < rate / 2)
            .map((hertz, n) => (
              <Box
                key={hertz}
                position="absolute"
                pointerEvents="none"
                top={0}
                h={`${height}px`}
                left={`${100 * toAxis(hertz, rate)}%`}
                w="1px"
                bg="fg"
                opacity={n ? 0.22 : 0.7}
              />
            ))}
        <FrequencyLabels
          ticks={TICKS}
          rate={rate}
          place={(hertz) => ({
            bottom: 0,
            left: `${100 * toAxis(hertz, rate)}%`,
            transform: "translateX(-50%)",
          })}
        />
      </Box>
    </Flex>
  );
}

type Made = NonNullable<ReturnType<typeof prepared>>;
const FOOT = 14;

function grid({ context, width, height }: Made, rate: number, rows: readonly (readonly [number, string])[]) {
  const shown = colors();
  context.font = "9px sans-serif";
  context.fillStyle = shown.quiet;
  context.strokeStyle = shown.line;
  context.lineWidth = 1;
  for (const [place, text] of rows) {
    const y = Math.round(place * (height - FOOT)) + 0.5;
    context.beginPath();
    context.moveTo(0, y);
    context.lineTo(width, y);
    context.stroke();
    context.fillText(text, 2, y - 2 < 8 ? y + 9 : y - 2);
  }
  for (const hertz of TICKS) {
    const x = Math.round(toAxis(hertz, rate) * width) + 0.5;
    context.beginPath();
    context.moveTo(x, 0);
    context.lineTo(x, height - FOOT);
    context.stroke();
  }
  return shown;
}

function drawSpectrum(made: Made, analysis: Analysis, rate: number, midSide: boolean) {
  const { context, width, height } = made;
  const rows = [-24, -48, -72, -96].map((db) => [(TOP - db) / (TOP - BOTTOM), signed(db, 0)] as const);
  const shown = grid(made, rate, rows);
  const y = (db: number) => ((TOP - Math.max(BOTTOM, db)) / (TOP - BOTTOM)) * (height - FOOT);
  const curves = midSide
    ? ([
        [analysis.mid, shown.mid, []],
        [analysis.side, shown.side, [4, 2]],
      ] as const)
    : ([
        [analysis.left, analysis.right.length ? shown.left : shown.mid, []],
        [analysis.right, shown.right, [4, 2]],
      ] as const);
  for (const [levels, color, dash] of curves) {
    if (!levels.length) continue;
    const tops = columns(levels, analysis.step_hz, rate, Math.floor(width));
    context.strokeStyle = context.fillStyle = color;
    context.beginPath();
    for (const [x, db] of tops.entries()) context.lineTo(x, y(db));
    context.lineWidth = 1.3;
    context.setLineDash([...dash]);
    context.stroke();
    context.setLineDash([]);
    context.lineTo(width, height - FOOT);
    context.lineTo(0, height - FOOT);
    context.globalAlpha = 0.13;
    context.fill();
    context.globalAlpha = 1;
  }
}

function drawBands(made: Made, analysis: Analysis, rate: number) {
  const { context, width, height } = made;
  const shown = grid(made, rate, [
    [0.02, "+1"],
    [0.5, "0"],
    [0.98, "−1"],
  ]);
  const middle = 0.5 * (height - FOOT);
  const loudest = Math.max(...analysis.bands.map((band) => band.level_db));
  for (const { hz, correlation, level_db } of analysis.bands) {
    if (correlation === null) continue;
    const left = toAxis(hz * 10 ** -0.045, rate) * width;
    const right = toAxis(hz * 10 ** 0.045, rate) * width;
    // Bands far below the loudest are there, and count for little.
    context.globalAlpha = Math.max(0.25, 1 + (level_db - loudest) / 60);
    context.fillStyle = correlation < 0 ? shown.trouble : shown.quiet;
    const size = correlation * middle * 0.96;
    context.fillRect(
      left,
      Math.min(middle, middle - size),
      Math.max(2, right - left),
      Math.max(1, Math.abs(size)),
    );
  }
  context.globalAlpha = 1;
}
