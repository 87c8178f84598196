/** What the pages share: a loop that ends with the page, buttons that play, and a plane that moves with the sound. */
import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { Pause, Play } from "lucide-react";
import { type ReactNode, useEffect, useRef, useState } from "react";
import { fetchSound } from "../../api/binary";
import { useColorMode } from "../../shared/colorMode";
import { tellProblem } from "../../shared/notices";
import { Loop, type Matrix } from "./sound";

export function useLoop() {
  const [loop] = useState(() => new Loop());
  const [playing, setPlaying] = useState<string | null>(null);
  useEffect(() => () => loop.close(), [loop]);
  const toggle = async (id: string, samples: () => Promise<Float32Array>, matrix: Matrix) => {
    if (playing === id) {
      loop.stop();
      return setPlaying(null);
    }
    setPlaying(id);
    try {
      await loop.play(samples(), matrix);
    } catch (problem) {
      setPlaying((now) => (now === id ? null : now));
      tellProblem(problem);
    }
  };
  return { loop, playing, toggle };
}

export const soundOf = (name: string) => () => fetchSound(name);

export function Listen(props: { on: boolean; onClick: () => void; children: ReactNode }) {
  return (
    <Button size="sm" variant="outline" aria-pressed={props.on} onClick={props.onClick}>
      {props.on ? <Pause size={14} /> : <Play size={14} />} {props.children}
    </Button>
  );
}

export function Figure({ picture, children }: { picture: ReactNode; children: ReactNode }) {
  return (
    <Flex layerStyle="panel" p={4} gap={6} my={6} align="center" wrap="wrap">
      <Box flexShrink={0}>{picture}</Box>
      <Flex direction="column" gap={3} flex="1 1 240px">
        {children}
      </Flex>
    </Flex>
  );
}

export const Paragraph = ({ children }: { children: ReactNode }) => (
  <Text mb={3} textStyle="prose">
    {children}
  </Text>
);

/** Left against right, turned so that what both share stands upright. */
export function LivePlane({ loop, playing }: { loop: Loop; playing: boolean }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const size = 220;
  const colors = useColorMode();
  // biome-ignore lint/correctness/useExhaustiveDependencies: drawn anew in other colours
  useEffect(() => {
    const context = canvas.current?.getContext("2d");
    if (!canvas.current || !context) return;
    const ratio = window.devicePixelRatio || 1;
    canvas.current.width = canvas.current.height = size * ratio;
    context.scale(ratio, ratio);
    const style = getComputedStyle(document.documentElement);
    const color = (name: string) => style.getPropertyValue(`--chakra-colors-${name}`).trim();
    const half = size / 2;
    let request = 0;
    const draw = () => {
      context.clearRect(0, 0, size, size);
      context.font = "700 12px sans-serif";
      context.textAlign = "center";
      for (const [letter, x, y, name] of [
        ["M", 0, -1, "mid"],
        ["S", -1, 0, "side"],
        ["L", -Math.SQRT1_2, -Math.SQRT1_2, "left"],
        ["R", Math.SQRT1_2, -Math.SQRT1_2, "right"],
      ] as const) {
        context.strokeStyle = color("line");
        context.beginPath();
        context.moveTo(half - x * (half - 24), half - y * (half - 24));
        context.lineTo(half + x * (half - 24), half + y * (half - 24));
        context.stroke();
        context.fillStyle = color(name);
        context.fillText(letter, half + x * (half - 12), half + y * (half - 12) + 4);
      }
      const heard = loop.heard();
      if (heard) {
        context.fillStyle = color("fg");
        for (let n = 0; n < heard[0].length; n++) {
          const [l, r] = [heard[0][n] ?? 0, heard[1][n] ?? 0];
          const [up, across] = [(l + r) * Math.SQRT1_2, (l - r) * Math.SQRT1_2];
          const length = Math.hypot(up, across);
          if (length < 1e-5) continue;
          const reach = ((half - 26) * Math.min(1, length) ** 0.6) / length;
          context.fillRect(half - across * reach, half - up * reach, 1.5, 1.5);
        }
      }
      if (playing) request = requestAnimationFrame(draw);
    };
    draw();
    return () => cancelAnimationFrame(request);
  }, [loop, playing, colors]);
  return (
    <canvas
      ref={canvas}
      style={{ width: size, height: size }}
      role="img"
      aria-label="Goniometer while playing: mid vertical, side horizontal"
    />
  );
}
