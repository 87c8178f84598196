/** Lanes along frequency: the spectrum of both channels, or of mid and side; and the correlation of each band. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { type PointerEvent, useCallback } from "react";
import type { Analysis } from "../../api/client";
import { type Surface, TYPE, useCanvas, writeLabel } from "../../shared/canvas";
import { Failed } from "../../shared/Failed";
import { correlation, signed } from "../../shared/format";
import { useListen, useSession } from "./context";
import { FrequencyLabels } from "./FrequencyLabels";
import { columns, hertzText, type LogAxis, logAxis, noteOf } from "./frequency";
import { bandsInWords, spectrumInWords } from "./inWords";
import { LaneFrame, PictureState } from "./LaneFrame";
import { laneChannels, laneName } from "./lane";
import type { ShownLane } from "./listenState";
import { useLaneAnalysis } from "./useLaneAnalysis";

const [TOP, BOTTOM] = [0, -120];
const HARMONICS = 12;
const TICKS = [30, 60, 125, 250, 500, 1000, 2000, 4000, 8000, 16_000];
const FOOT = 14;

export function SpectrumLane({ shown }: { shown: ShownLane }) {
  const rate = useListen((state) => state.rate);
  const asMidSide = useListen((state) => state.midSide);
  const pointed = useListen((state) => state.pointed);
  const midSide = asMidSide && laneChannels(shown.lane) === 2;
  const { data: analysis } = useLaneAnalysis(shown);
  const draw = useCallback(
    (surface: Surface) => analysis && drawSpectrum(surface, analysis, logAxis(rate), midSide),
    [analysis, rate, midSide],
  );
  const at = pointed === null ? null : Math.round(pointed / (analysis?.step_hz ?? 1));
  const read = (levels: readonly number[] | undefined) =>
    at === null || !levels?.length ? "" : `${signed(levels[Math.min(levels.length - 1, at)] ?? -180)} dB`;
  const [one, two] = midSide ? [analysis?.mid, analysis?.side] : [analysis?.left, analysis?.right];
  return (
    <FrequencyLane
      shown={shown}
      picture="spectrum"
      label="Spectrum"
      draw={draw}
      inWords={(analysis) => spectrumInWords(analysis, midSide)}
      lines={HARMONICS}
      readout={
        pointed !== null && (
          <>
            <Text>{hertzText(pointed)}</Text>
            <Text layerStyle="quiet">{noteOf(pointed)}</Text>
            <Text color={midSide ? "mid" : "left"}>
              {midSide ? "M" : analysis?.right.length ? "L" : ""} {read(one)}
            </Text>
            {two && two.length > 0 && (
              <Text color={midSide ? "side" : "right"}>
                {midSide ? "S" : "R"} {read(two)}
              </Text>
            )}
          </>
        )
      }
    />
  );
}

export function BandsLane({ shown }: { shown: ShownLane }) {
  const rate = useListen((state) => state.rate);
  const pointed = useListen((state) => state.pointed);
  const { data: analysis } = useLaneAnalysis(shown);
  const draw = useCallback(
    (surface: Surface) => analysis && drawBands(surface, analysis, logAxis(rate)),
    [analysis, rate],
  );
  const band =
    pointed === null
      ? undefined
      : analysis?.bands.find(({ hz }) => pointed >= hz * 10 ** -0.05 && pointed < hz * 10 ** 0.05);
  return (
    <FrequencyLane
      shown={shown}
      picture="bands"
      label="Correlation per ⅓ octave"
      draw={draw}
      inWords={bandsInWords}
      lines={1}
      readout={
        pointed !== null && (
          <>
            <Text>{hertzText(pointed)}</Text>
            {band && <Text>{band.correlation === null ? "silent" : correlation(band.correlation)}</Text>}
          </>
        )
      }
    />
  );
}

function FrequencyLane(props: {
  shown: ShownLane;
  picture: string;
  label: string;
  draw: (surface: Surface) => void;
  inWords: (analysis: Analysis) => string;
  /** So many lines at the frequency under the pointer and its multiples. */
  lines: number;
  readout: React.ReactNode;
}) {
  const { shown, picture, label, draw, inWords, lines, readout } = props;
  const session = useSession();
  const rate = useListen((state) => state.rate);
  const pointed = useListen((state) => state.pointed);
  const { data, isError, refetch } = useLaneAnalysis(shown);
  const axis = logAxis(rate);
  const canvas = useCanvas(draw);
  const point = (event: PointerEvent<HTMLElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    session.look.point(axis.from((event.clientX - box.left) / box.width));
  };
  const beside = readout && (
    <Flex textStyle="figure" gap={3} ml="auto" flexShrink={0} data-testid="readout">
      {readout}
    </Flex>
  );
  return (
    <LaneFrame lane={shown.lane} picture={picture} beside={beside}>
      <Box
        flex={1}
        minH={12}
        position="relative"
        onPointerMove={point}
        onPointerLeave={() => session.look.point(null)}
      >
        <canvas
          ref={canvas}
          style={{ width: "100%", height: "100%", display: "block" }}
          role="img"
          aria-label={`${label} of ${laneName(shown.lane)}. ${data ? inWords(data) : ""}`}
        />
        {!data && (
          <PictureState>{isError ? <Failed onRetry={() => void refetch()} /> : "loading…"}</PictureState>
        )}
        {pointed !== null &&
          Array.from({ length: lines }, (_, n) => pointed * (n + 1))
            .filter((hertz) => hertz < rate / 2)
            .map((hertz, n) => (
              <Box
                key={hertz}
                position="absolute"
                pointerEvents="none"
                top={0}
                bottom={0}
                left={`${100 * axis.to(hertz)}%`}
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
            left: `${100 * axis.to(hertz)}%`,
            transform: "translateX(-50%)",
          })}
        />
      </Box>
    </LaneFrame>
  );
}

function grid(surface: Surface, axis: LogAxis, rows: Rows) {
  const { context, width, height, colors } = surface;
  context.strokeStyle = colors.line;
  context.lineWidth = 1;
  for (const [place] of rows) {
    const y = Math.round(place * (height - FOOT)) + 0.5;
    context.beginPath();
    context.moveTo(0, y);
    context.lineTo(width, y);
    context.stroke();
  }
  for (const hertz of TICKS) {
    const x = Math.round(axis.to(hertz) * width) + 0.5;
    context.beginPath();
    context.moveTo(x, 0);
    context.lineTo(x, height - FOOT);
    context.stroke();
  }
}

type Rows = readonly (readonly [place: number, text: string])[];

/** At the edge, over what is drawn. */
function labelRows(surface: Surface, rows: Rows) {
  const last = surface.height - FOOT - TYPE / 2 - 1;
  for (const [place, text] of rows)
    writeLabel(surface, text, 2, Math.max(TYPE / 2 + 1, Math.min(last, place * (surface.height - FOOT))));
}

function drawSpectrum(surface: Surface, analysis: Analysis, axis: LogAxis, midSide: boolean) {
  const { context, width, height, colors } = surface;
  const rows = [-24, -48, -72, -96].map((db) => [(TOP - db) / (TOP - BOTTOM), signed(db, 0)] as const);
  grid(surface, axis, rows);
  const y = (db: number) => ((TOP - Math.max(BOTTOM, db)) / (TOP - BOTTOM)) * (height - FOOT);
  const curves = midSide
    ? ([
        [analysis.mid, colors.mid, []],
        [analysis.side, colors.side, [4, 2]],
      ] as const)
    : ([
        [analysis.left, analysis.right.length ? colors.left : colors.mid, []],
        [analysis.right, colors.right, [4, 2]],
      ] as const);
  for (const [levels, color, dash] of curves) {
    if (!levels.length) continue;
    const tops = columns(levels, analysis.step_hz, axis, Math.floor(width));
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
  labelRows(surface, rows);
}

const CORRELATIONS: Rows = [
  [0.02, "+1"],
  [0.5, "0"],
  [0.98, "−1"],
];

function drawBands(surface: Surface, analysis: Analysis, axis: LogAxis) {
  const { context, width, height, colors } = surface;
  grid(surface, axis, CORRELATIONS);
  const middle = 0.5 * (height - FOOT);
  const loudest = Math.max(...analysis.bands.map((band) => band.level_db));
  for (const { hz, correlation, level_db } of analysis.bands) {
    if (correlation === null) continue;
    const left = axis.to(hz * 10 ** -0.045) * width;
    const right = axis.to(hz * 10 ** 0.045) * width;
    // Bands far below the loudest are there, and count for little.
    context.globalAlpha = Math.max(0.25, 1 + (level_db - loudest) / 60);
    context.fillStyle = correlation < 0 ? colors.negative : colors.quiet;
    const size = correlation * middle * 0.96;
    context.fillRect(
      left,
      Math.min(middle, middle - size),
      Math.max(2, right - left),
      Math.max(1, Math.abs(size)),
    );
  }
  context.globalAlpha = 1;
  labelRows(surface, CORRELATIONS);
}
