/** One lane of look-and-listen: the waveform, and under it the ribbon. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useEffect, useMemo, useReducer, useRef } from "react";
import { clock, depth, duration, kilohertz, layout } from "../../shared/format";
import { drawAxis, drawCurves, drawRibbon, drawWaveform, type Frame, type Rows } from "./draw";
import { type LaneClips, laneChannels, laneFrames, laneName } from "./lane";
import { colors, prepared } from "./paint";
import type { Playable } from "./player";
import { TILE_BINS, type TileKind, tile } from "./tiles";
import { binFor, type Viewport } from "./viewport";

/** Closer than this many frames a pixel, the samples themselves are drawn. */
const CURVES_BELOW = 8;
const LEAST_FOR_CORRELATION = 1024;

type Props = {
  lane: LaneClips;
  playable: Playable;
  viewport: Viewport;
  width: number;
  gain: number;
  heard: boolean;
  dark: boolean;
  onProblem: (problem: unknown) => void;
};

export function Lane({ lane, playable, viewport, width, gain, heard, dark, onProblem }: Props) {
  const wave = useRef<HTMLCanvasElement>(null);
  const ribbon = useRef<HTMLCanvasElement>(null);
  const [arrivals, arrived] = useReducer((n: number) => n + 1, 0);
  const frames = laneFrames(lane);
  const channels = laneChannels(lane);
  const midSide = lane.midSide === true;
  const onTile = useMemo(
    () => (problem?: unknown) => (problem ? onProblem(problem) : arrived()),
    [onProblem],
  );

  // biome-ignore lint/correctness/useExhaustiveDependencies: `arrivals` and `dark` are what else the pictures depend on
  useEffect(() => {
    const rows = (kind: TileKind, per: number, columns: number): Rows => ({
      channels,
      at: (bin) => {
        const index = Math.floor(bin / TILE_BINS);
        const data = tile(playable.key, playable.view, kind, per, index, onTile);
        return data && { data, offset: (bin - index * TILE_BINS) * columns };
      },
    });
    paint(wave.current, viewport, frames, gain, midSide, (frame, ratio) => {
      drawAxis(frame, channels === 2 || viewport.scale < CURVES_BELOW ? 1 : channels);
      if (viewport.scale < CURVES_BELOW) drawCurves(frame, rows("samples", 1, channels));
      else {
        const per = binFor(viewport.scale, ratio);
        drawWaveform(frame, rows("waveform", per, 3 * channels), per);
      }
    });
    if (channels !== 2) return;
    paint(ribbon.current, viewport, frames, 1, false, (frame, ratio) => {
      const per = Math.max(LEAST_FOR_CORRELATION, binFor(viewport.scale, ratio));
      drawRibbon(frame, rows("correlation", per, 1), per);
    });
  }, [playable, viewport, width, gain, channels, frames, arrivals, dark, midSide, onTile]);

  const first = lane.clips[0];
  if (!first) return null;
  // From near, both sides are curves on one axis: the letters show how their samples are marked.
  const near = viewport.scale < CURVES_BELOW;
  const speakers = lane.clips.flatMap((one) => one.speakers);
  const numbers =
    speakers.length === channels ? speakers : Array.from({ length: channels }, (_, n) => String(n + 1));
  const letters =
    channels === 2
      ? near
        ? midSide
          ? ["M●", "S■"]
          : ["L●", "R■"]
        : midSide
          ? ["M", "S"]
          : ["L", "R"]
      : channels === 1
        ? ["M"]
        : channels <= 16 && !near
          ? numbers
          : [];
  return (
    <Flex direction="column" flex={1} minH={0} gap={1} data-testid={`lane-${lane.label.toLowerCase()}`}>
      <Flex gap={2} align="baseline" minW={0} ml="-28px">
        <Text fontWeight={700} minW={7} color={heard ? "fg" : "fg.quiet"}>
          {lane.label}
        </Text>
        <Text truncate title={laneName(lane)}>
          {laneName(lane)}
        </Text>
        <Text color="fg.quiet" fontSize="xs" flexShrink={0} ml="auto">
          {lane.clips.length > 1 && `${lane.clips.length} × `}
          {layout(first.channels)} · {kilohertz(first.rate)} · {depth(first.depth)} ·{" "}
          {duration(frames, first.rate)}
          {first.start_time !== null && ` · starts at ${clock(first.start_time / first.rate, 0)}`}
        </Text>
      </Flex>
      <Flex flex={1} minH={12} position="relative">
        <Letters letters={letters} />
        <canvas
          ref={wave}
          style={{ width: "100%", height: "100%", display: "block" }}
          role="img"
          aria-label={`Waveform of ${laneName(lane)}`}
        />
      </Flex>
      {channels === 2 && (
        <Flex h={6} position="relative" flexShrink={0}>
          <Letters letters={["+1", "−1"]} mono />
          <canvas
            ref={ribbon}
            style={{ width: "100%", height: "100%", display: "block" }}
            role="img"
            aria-label={`Correlation of ${laneName(lane)} along time, from plus one to minus one`}
          />
        </Flex>
      )}
    </Flex>
  );
}

/** Left of the picture, outside its time axis. */
function Letters({ letters, mono }: { letters: string[]; mono?: boolean }) {
  const color = (letter: string) =>
    mono
      ? "fg.quiet"
      : /^L●?$/.test(letter)
        ? "left"
        : /^R■?$/.test(letter)
          ? "right"
          : /^S■?$/.test(letter)
            ? "side"
            : "mid";
  return (
    <Flex
      position="absolute"
      right="100%"
      mr={2}
      top={0}
      bottom={0}
      direction="column"
      justify="space-around"
      align="end"
      fontSize={mono ? "2xs" : "xs"}
      lineHeight={1}
    >
      {letters.map((letter) => (
        <Box key={letter} color={color(letter)} fontWeight={mono ? 400 : 700}>
          {letter}
        </Box>
      ))}
    </Flex>
  );
}

/** Set a canvas up and draw on it. */
function paint(
  canvas: HTMLCanvasElement | null,
  viewport: Viewport,
  frames: number,
  gain: number,
  midSide: boolean,
  draw: (frame: Frame, ratio: number) => void,
) {
  const made = prepared(canvas);
  if (!made) return;
  const { context, width, height, ratio } = made;
  const theme = colors();
  const shown = midSide ? { ...theme, left: theme.mid, right: theme.side } : theme;
  draw({ context, width, height, gain, frames, ...viewport, colors: shown }, ratio);
}
