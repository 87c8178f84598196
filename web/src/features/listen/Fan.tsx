/** The field: a fan of energy by direction; and while playing, the plane: left against right, mono upright. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useCallback, useEffect, useRef } from "react";
import type { Analysis } from "../../api/client";
import { type Surface, TYPE, useCanvas } from "../../shared/canvas";
import { signed } from "../../shared/format";
import { useFrames, useListen, useSession } from "./context";
import { fieldInWords } from "./inWords";
import { useIsHeard } from "./LaneFrame";
import type { LaneClips } from "./lane";

/** The plane enlarges what is quiet by its root, so that it is seen at any level. */
const ROOT = 0.6;
const DRAW_EVERY = 28; // milliseconds: some thirty-five pictures a second

type Props = {
  label: LaneClips["label"];
  analysis: Analysis | undefined;
  /** Measured over all of the clip; undefined for a range, whose correlation is estimated from its spectra. */
  correlation: number | null | undefined;
};

export function Fan({ label, analysis, correlation }: Props) {
  const { player } = useSession();
  const playing = useListen((state) => state.playing);
  const live = useIsHeard(label) && playing;
  const surface = useRef<Surface | null>(null);
  const latest = useRef<Float32Array | null>(null);
  const drawn = useRef(0);
  const canvas = useCanvas(
    useCallback(
      (made: Surface) => {
        surface.current = made;
        frame(made);
        if (analysis && !live) fan(made, analysis.field);
      },
      [analysis, live],
    ),
  );
  useEffect(() => {
    if (!live) return;
    return player.listen((heard) => {
      latest.current = heard;
    });
  }, [player, live]);
  useFrames(
    useCallback(
      (now: number) => {
        const [made, heard] = [surface.current, latest.current];
        if (!live || !made || !heard || now - drawn.current < DRAW_EVERY) return false;
        drawn.current = now;
        latest.current = null;
        frame(made);
        plane(made, heard);
        return false;
      },
      [live],
    ),
  );
  const estimated = correlation === undefined ? analysis?.correlation : undefined;
  return (
    <Flex
      direction="column"
      justify="center"
      flex={1}
      minH={0}
      textAlign="center"
      data-testid={`fan-${label.toLowerCase()}`}
    >
      <Box minH={0} flex="0 1 auto" aspectRatio="112 / 76">
        <canvas
          ref={canvas}
          style={{ width: "100%", height: "100%", display: "block" }}
          role="img"
          aria-label={`Field of ${label}: energy by direction. ${analysis ? fieldInWords(analysis.field) : ""}`}
        />
      </Box>
      <Text textStyle="figure" color={(correlation ?? estimated ?? 1) <= -0.05 ? "negative" : "fg.quiet"}>
        {typeof correlation === "number" && `corr ${correlation >= 0 ? "+" : ""}${signed(correlation, 2)}`}
        {typeof estimated === "number" && `corr ≈ ${estimated >= 0 ? "+" : ""}${signed(estimated, 1)}`}
      </Text>
    </Flex>
  );
}

/** Where the half circle stands in its picture, and how far it reaches; letters stand outside of it. */
const halfCircle = ({ width, height }: Surface) => ({
  centre: { x: width / 2, y: height - 10 },
  reach: Math.min(width / 2 - 2, height - 22),
});

function frame(surface: Surface) {
  const { context, colors: shown, font, width, height } = surface;
  const { centre, reach } = halfCircle(surface);
  context.clearRect(0, 0, width, height);
  context.strokeStyle = shown.line;
  context.lineWidth = 1;
  context.beginPath();
  context.arc(centre.x, centre.y, reach, Math.PI, 0);
  context.stroke();
  context.font = `700 ${TYPE}px ${font}`;
  context.textAlign = "center";
  for (const [letter, angle, color] of [
    ["L", 45, shown.left],
    ["R", -45, shown.right],
  ] as const) {
    const turned = (angle * Math.PI) / 180;
    context.fillStyle = color;
    context.fillText(
      letter,
      centre.x - Math.sin(turned) * (reach + 8),
      centre.y - Math.cos(turned) * (reach + 8) + 8,
    );
  }
}

function fan(surface: Surface, field: readonly number[]) {
  const { context, colors: shown } = surface;
  const { centre, reach: whole } = halfCircle(surface);
  const loudest = Math.max(...field);
  if (!(loudest > 0)) return;
  const half = Math.PI / field.length / 2;
  field.forEach((share, n) => {
    const angle = -Math.PI / 2 + ((n + 0.5) * Math.PI) / field.length;
    const reach = Math.sqrt(share / loudest) * (whole - 2);
    const degrees = Math.abs((angle * 180) / Math.PI);
    context.fillStyle =
      degrees > 67.5 ? shown.side : degrees < 8 ? shown.mid : angle > 0 ? shown.left : shown.right;
    context.beginPath();
    context.moveTo(centre.x, centre.y);
    // Up is mid; a positive angle leans left.
    context.arc(centre.x, centre.y, reach, -Math.PI / 2 - angle - half, -Math.PI / 2 - angle + half);
    context.fill();
  });
}

function plane(surface: Surface, heard: Float32Array) {
  const { context, colors: shown } = surface;
  const { centre, reach: whole } = halfCircle(surface);
  context.fillStyle = shown.fg;
  context.globalAlpha = 0.55;
  for (let n = 0; n + 1 < heard.length; n += 4) {
    const [left, right] = [heard[n] ?? 0, heard[n + 1] ?? 0];
    const [up, across] = [(left + right) * Math.SQRT1_2, (left - right) * Math.SQRT1_2];
    const size = Math.hypot(up, across);
    if (size < 1e-5) continue;
    const reach = ((whole - 2) * Math.min(1, size) ** ROOT) / size;
    // Both halves of the plane say the same: what points down is shown at its mirror above.
    const sign = up < 0 ? -1 : 1;
    context.fillRect(centre.x - sign * across * reach, centre.y - sign * up * reach, 1.5, 1.5);
  }
  context.globalAlpha = 1;
}
