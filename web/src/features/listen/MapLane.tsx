/** Where the energy is: direction across, frequency up, brightness for energy; and on In the wedge, with its handles. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useCallback } from "react";
import { useMap } from "../../api/queries";
import type { WedgeSettings } from "../../api/turns";
import { type Surface, useCanvas } from "../../shared/canvas";
import { Failed } from "../../shared/Failed";
import { useListen } from "./context";
import { FrequencyLabels } from "./FrequencyLabels";
import { logAxis } from "./frequency";
import { mapInWords } from "./inWords";
import { LaneFrame, PictureState } from "./LaneFrame";
import { laneName } from "./lane";
import type { ShownLane } from "./listenState";
import { useStretch } from "./useLaneAnalysis";
import { Wedge } from "./Wedge";

const [ROWS, COLUMNS] = [96, 61];
const LOWEST = 40;
const FLOOR = -55;
const TICKS = [60, 250, 1000, 4000, 16_000];
type Props = {
  shown: ShownLane;
  wedge: WedgeSettings | null;
  onWedge: (change: Partial<WedgeSettings>) => void;
};

export function MapLane({ shown, wedge, onWedge }: Props) {
  const { lane, playable } = shown;
  const rate = useListen((state) => state.rate);
  const { data: map, isError, refetch } = useMap(playable.view, playable.key, useStretch(shown));
  const canvas = useCanvas(useCallback((surface: Surface) => map && drawMap(surface, map), [map]));
  const axis = logAxis(rate, LOWEST);
  return (
    <LaneFrame lane={lane} picture="map" flush>
      <Flex flex={1} minH={0}>
        <Box w={8} flexShrink={0} position="relative">
          <FrequencyLabels
            ticks={TICKS}
            rate={rate}
            place={(hertz) => ({
              right: 1.5,
              bottom: `${100 * axis.to(hertz)}%`,
              transform: "translateY(50%)",
            })}
          />
        </Box>
        <Box flex={1} position="relative" minW={0}>
          <canvas
            ref={canvas}
            style={{ width: "100%", height: "100%", display: "block", borderRadius: 4 }}
            role="img"
            aria-label={`Energy of ${laneName(lane)} by direction and frequency. ${map ? mapInWords(map, COLUMNS, axis.from) : ""}`}
          />
          {!map && (
            <PictureState>{isError ? <Failed onRetry={() => void refetch()} /> : "loading…"}</PictureState>
          )}
          {wedge && <Wedge wedge={wedge} axis={axis} onChange={onWedge} />}
        </Box>
      </Flex>
      <Flex pl={8} justify="space-between" fontSize="xs" fontWeight={700}>
        <Text color="left">L</Text>
        <Text color="fg.quiet" fontWeight={400}>
          direction
        </Text>
        <Text color="right">R</Text>
      </Flex>
    </LaneFrame>
  );
}

/** Brightness for energy, in the colours of the directions. */
function drawMap({ context, width, height, colors }: Surface, map: Float32Array) {
  const image = new ImageData(COLUMNS, ROWS);
  const [ground, left, mid, right] = [colors.ground, colors.left, colors.mid, colors.right].map(rgb);
  for (let row = 0; row < ROWS; row++)
    for (let column = 0; column < COLUMNS; column++) {
      const loud = Math.max(0, Math.min(1, 1 - (map[row * COLUMNS + column] ?? FLOOR) / FLOOR)) ** 1.4;
      const lean = Math.abs(column / (COLUMNS - 1) - 0.5) * 2;
      const side = column < COLUMNS / 2 ? left : right;
      const at = 4 * ((ROWS - 1 - row) * COLUMNS + column);
      for (let n = 0; n < 3; n++) {
        const hue = (mid?.[n] ?? 0) * (1 - lean) + (side?.[n] ?? 0) * lean;
        image.data[at + n] = (ground?.[n] ?? 0) * (1 - loud) + hue * loud;
      }
      image.data[at + 3] = 255;
    }
  const small = new OffscreenCanvas(COLUMNS, ROWS);
  small.getContext("2d")?.putImageData(image, 0, 0);
  context.drawImage(small, 0, 0, width, height);
}

/** A colour of the theme as numbers; the theme writes #rrggbb. */
function rgb(color: string | undefined): [number, number, number] {
  const value = Number.parseInt((color ?? "#000000").slice(1), 16);
  return [(value >> 16) & 255, (value >> 8) & 255, value & 255];
}
