/** One lane along time: the waveform, and under it the ribbon. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { type ReactNode, useCallback, useLayoutEffect, useMemo, useState, useSyncExternalStore } from "react";
import { useMeasures } from "../../api/queries";
import { type Surface, useCanvas } from "../../shared/canvas";
import { clock, depth, duration, gainText, kilohertz, layout, signed } from "../../shared/format";
import { QuietButton } from "../../shared/parts";
import { useListen } from "./context";
import { drawAxis, drawCurves, drawRibbon, drawScale, drawWaveform, type Frame, type Rows } from "./draw";
import { LaneFrame, PictureState } from "./LaneFrame";
import { type LaneClips, laneChannels, laneFrames, laneName } from "./lane";
import { HEIGHTS, type ShownLane } from "./listenState";
import { type ShownTiles, TILE_BINS, type TileKind, TileLane, tileStore } from "./tiles";
import { binFor, type Viewport } from "./viewport";

/** Closer than this many frames a pixel, the samples themselves are drawn. */
const CURVES_BELOW = 8;
const LEAST_FOR_CORRELATION = 1024;
const NEAR: Wanted = { kind: "samples", per: 1 };

export function WaveLane({ shown, children }: { shown: ShownLane; children?: ReactNode }) {
  const { lane } = shown;
  const viewport = useViewport(shown);
  const width = useListen((state) => state.width);
  const { gain: height, fitted } = useHeight(shown);
  const frames = laneFrames(lane);
  const channels = laneChannels(lane);
  const midSide = lane.midSide === true;
  const near = viewport.scale < CURVES_BELOW;
  const bins = binFor(viewport.scale, window.devicePixelRatio || 1);
  const wave = useTiles(shown, near ? NEAR : { kind: "waveform", per: bins }, viewport, width);
  const frame = useCallback(
    ({ colors, ...surface }: Surface, gain: number): Frame => ({
      ...surface,
      ...viewport,
      gain,
      frames,
      colors: midSide ? { ...colors, left: colors.mid, right: colors.side } : colors,
    }),
    [viewport, frames, midSide],
  );
  const drawWave = useCallback(
    (surface: Surface) => {
      const drawn = frame(surface, height);
      const strips = channels === 2 || near ? 1 : channels;
      drawAxis(drawn, strips);
      if (near) drawCurves(drawn, rowsOf(wave.tiles, channels, channels));
      else drawWaveform(drawn, rowsOf(wave.tiles, channels, 3 * channels), bins);
      drawScale(surface, strips, height);
    },
    [frame, height, channels, near, wave.tiles, bins],
  );
  const canvas = useCanvas(drawWave);

  const first = lane.clips[0];
  if (!first) return null;
  const { tiles } = wave;
  const readout = near
    ? { rows: rowsOf(tiles, channels, channels), per: 1, columns: 1 }
    : { rows: rowsOf(tiles, channels, 3 * channels), per: bins, columns: 3 };
  const facts = (
    <Text layerStyle="note" flexShrink={10_000} minW={0} truncate ml="auto">
      {lane.clips.length > 1 && `${lane.clips.length} × `}
      {layout(first.channels)} · {kilohertz(first.rate)} · {depth(first.depth)} ·{" "}
      {duration(frames, first.rate)}
      {first.start_time !== null && ` · starts at ${clock(first.start_time / first.rate, 0)}`}
      {fitted && ` · height ${gainText(20 * Math.log10(height))}`}
    </Text>
  );
  return (
    <LaneFrame
      lane={lane}
      picture="lane"
      beside={
        <Readout shown={shown} {...readout}>
          {facts}
        </Readout>
      }
    >
      <Flex flex={1} minH={12} position="relative">
        <Letters letters={lettersOf(shown, near)} />
        <canvas
          ref={canvas}
          style={{ width: "100%", height: "100%", display: "block" }}
          role="img"
          aria-label={`Waveform of ${laneName(lane)}`}
        />
        <ChannelNames lane={lane} />
        {wave.problem ? (
          <PictureState>
            The waveform could not be drawn.
            <QuietButton onClick={wave.retry} position="relative" zIndex={1}>
              Try again
            </QuietButton>
          </PictureState>
        ) : (
          wave.waiting && wave.tiles.size === 0 && <PictureState>loading…</PictureState>
        )}
        {children}
      </Flex>
      {channels === 2 && <Ribbon shown={shown} frame={frame} />}
    </LaneFrame>
  );
}

const HIGHEST_FIT = 60; // dB
const FULL = 0.97;

/** By how much a lane is drawn higher: as chosen for all, or up to its own peak. */
function useHeight({ playable }: ShownLane): { gain: number; fitted: boolean } {
  const chosen = useListen((state) => HEIGHTS[state.height] ?? 1);
  const fit = useListen((state) => state.fitHeight);
  const peak = useMeasures(playable.view, playable.key).data?.measures.whole.peak_dbfs;
  if (!fit || typeof peak !== "number") return { gain: chosen, fitted: false };
  return { gain: FULL * 10 ** (Math.min(-peak, HIGHEST_FIT) / 20), fitted: true };
}

type ReadoutProps = { shown: ShownLane; rows: Rows; per: number; columns: number; children: ReactNode };

/** Time and level under the pointer, in place of what is said of the clip otherwise. */
function Readout({ shown: { lane }, rows, per, columns, children }: ReadoutProps) {
  const at = useListen((state) => state.pointedFrame);
  const channels = laneChannels(lane);
  const frame = at === null ? null : at - (lane.later ?? 0);
  const row = frame !== null && frame >= 0 && channels <= 2 ? rows.at(Math.floor(frame / per)) : null;
  if (frame === null || !row) return children;
  const levels = Array.from({ length: channels }, (_, channel) => {
    const values = row.data.subarray(row.offset + columns * channel, row.offset + columns * channel + 2);
    return levelText(
      20 * Math.log10(Math.max(Math.abs(values[0] ?? 0), columns > 1 ? Math.abs(values[1] ?? 0) : 0)),
    );
  });
  return (
    <Text textStyle="figure" ml="auto" minW={0} truncate data-testid="readout" aria-hidden>
      {clock(frame / (lane.clips[0]?.rate ?? 1))} · {levels.join(" ")} dBFS
    </Text>
  );
}

/** The names that a file of many channels gives them, each over its own waveform. */
function ChannelNames({ lane }: { lane: LaneClips }) {
  const names = lane.clips.flatMap((clip) => clip.labels);
  if (names.length !== laneChannels(lane) || names.length < 3 || names.length > 16) return null;
  return (
    <Flex position="absolute" inset={0} direction="column" pointerEvents="none" aria-hidden>
      {names.map((name, n) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: channels are told by their numbers
        <Text key={n} flex={1} minH={0} pl={1} layerStyle="note" truncate>
          {name}
        </Text>
      ))}
    </Flex>
  );
}

const levelText = (db: number) => (Number.isFinite(db) ? signed(db) : "−∞");

/** Correlation along time. */
function Ribbon(props: { shown: ShownLane; frame: (surface: Surface, gain: number) => Frame }) {
  const { shown, frame } = props;
  const viewport = useViewport(shown);
  const width = useListen((state) => state.width);
  const per = Math.max(LEAST_FOR_CORRELATION, binFor(viewport.scale, window.devicePixelRatio || 1));
  const { tiles } = useTiles(shown, { kind: "correlation", per }, viewport, width);
  const draw = useCallback(
    (surface: Surface) => drawRibbon(frame(surface, 1), rowsOf(tiles, 2, 1), per),
    [frame, tiles, per],
  );
  const canvas = useCanvas(draw);
  return (
    <Flex h={6} position="relative" flexShrink={0}>
      <Letters letters={["+1", "−1"]} quiet />
      <canvas
        ref={canvas}
        style={{ width: "100%", height: "100%", display: "block" }}
        role="img"
        aria-label={`Correlation of ${laneName(shown.lane)} along time, from plus one to minus one`}
      />
    </Flex>
  );
}

/** What is seen of the time axis, from where the lane begins. */
function useViewport({ lane: { later = 0 } }: ShownLane): Viewport {
  const viewport = useListen((state) => state.viewport);
  return useMemo(() => ({ ...viewport, start: viewport.start - later }), [viewport, later]);
}

type Wanted = { kind: TileKind; per: number };

/** The tiles of a picture that the viewport shows. */
function useTiles({ lane, playable }: ShownLane, { kind, per }: Wanted, viewport: Viewport, width: number) {
  const [shown] = useState(() => new TileLane(tileStore));
  const end = Math.min(laneFrames(lane), viewport.start + width * viewport.scale);
  const first = Math.floor(Math.max(0, viewport.start) / per / TILE_BINS);
  const last = Math.floor(Math.max(0, end - 1) / per / TILE_BINS);
  const requests = useMemo(
    () => Array.from({ length: last - first + 1 }, (_, n) => ({ ...playable, kind, per, index: first + n })),
    [playable, kind, per, first, last],
  );
  // Before the page is painted: tiles that are here already are drawn at once.
  useLayoutEffect(() => shown.show(requests), [shown, requests]);
  return { ...useSyncExternalStore(shown.subscribe, shown.getShown), retry: () => shown.retry() };
}

/** Rows of so many columns, read from tiles. */
const rowsOf = (tiles: ShownTiles["tiles"], channels: number, columns: number): Rows => ({
  channels,
  at: (bin) => {
    const index = Math.floor(bin / TILE_BINS);
    const data = tiles.get(index);
    return data ? { data, offset: (bin - index * TILE_BINS) * columns } : null;
  },
});

function lettersOf({ lane }: ShownLane, near: boolean): string[] {
  const channels = laneChannels(lane);
  const [one, two] = lane.midSide ? ["M", "S"] : ["L", "R"];
  // From near, both channels are curves on one axis: the letters show how their samples are marked.
  if (channels === 2) return near ? [`${one}●`, `${two}■`] : [`${one}`, `${two}`];
  if (channels === 1) return ["M"];
  const speakers = lane.clips.flatMap((clip) => clip.speakers);
  const named = speakers.length === channels;
  return channels > 16 || near
    ? []
    : Array.from({ length: channels }, (_, n) => (named && speakers[n]) || String(n + 1));
}

const COLORS: Record<string, string> = { L: "left", R: "right", S: "side" };

/** Left of the picture, outside its time axis. */
function Letters({ letters, quiet }: { letters: string[]; quiet?: boolean }) {
  const color = (letter: string) => (quiet ? "fg.quiet" : (COLORS[letter.replace(/[●■]$/, "")] ?? "mid"));
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
      textStyle="small"
    >
      {letters.map((letter) => (
        <Box key={letter} color={color(letter)} textStyle={quiet ? "plain" : "strong"}>
          {letter}
        </Box>
      ))}
    </Flex>
  );
}
