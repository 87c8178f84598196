/** Levels of both ears with their highest peak held, and the correlation of what is heard now. */
import { Box, Text } from "@chakra-ui/react";
import { useEffect, useRef } from "react";
import { signed } from "../../shared/format";
import type { Player } from "./player";

const FLOOR = -60;
const HOLD = 1500; // milliseconds
const FALL = 20; // dB a second

const decibels = (value: number) => (value > 1e-6 ? 20 * Math.log10(value) : Number.NEGATIVE_INFINITY);
const share = (db: number) => Math.max(0, Math.min(1, (db - FLOOR) / -FLOOR));
const BAR = 120;
const POINTER = 84;
/** Figures change so often, bars twice as often. */
const FIGURES_EVERY = 120; // milliseconds
const BARS_EVERY = 30;

function write(element: HTMLElement, text: string) {
  if (element.textContent !== text) element.textContent = text;
}

export function Meters({ player }: { player: Player }) {
  const root = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const find = (name: string) => root.current?.querySelector<HTMLElement>(`[data-part=${name}]`) ?? null;
    const sides = [0, 1].map((n) => ({
      bar: find(`bar${n}`),
      hold: find(`hold${n}`),
      text: find(`text${n}`),
      shown: FLOOR,
      held: FLOOR,
      since: 0,
    }));
    const pointer = find("corr");
    const figure = find("figure");
    let smooth = 1;
    let written = 0;
    let [request, peaks, last] = [0, [0, 0] as [number, number], performance.now()];
    const stop = player.listen((heard) => {
      let [left, right, both] = [0, 0, 0];
      for (let n = 0; n + 1 < heard.length; n += 2) {
        const [a, b] = [heard[n] ?? 0, heard[n + 1] ?? 0];
        peaks = [Math.max(peaks[0], Math.abs(a)), Math.max(peaks[1], Math.abs(b))];
        left += a * a;
        right += b * b;
        both += a * b;
      }
      if (left > 1e-9 && right > 1e-9) smooth += 0.2 * (both / Math.sqrt(left * right) - smooth);
    });
    const draw = (now: number) => {
      request = requestAnimationFrame(draw);
      if (now - last < BARS_EVERY) return;
      const passed = (now - last) / 1000;
      last = now;
      const figures = now - written > FIGURES_EVERY;
      sides.forEach((side, n) => {
        const peak = decibels(peaks[n as 0 | 1]);
        side.shown = Math.max(peak, side.shown - FALL * passed, FLOOR);
        if (peak >= side.held) [side.held, side.since] = [peak, now];
        else if (now - side.since > HOLD) side.held = Math.max(FLOOR, side.held - FALL * passed);
        // Moved, not laid out anew: the page stands still around it.
        if (side.bar) side.bar.style.transform = `scaleX(${share(side.shown)})`;
        if (side.hold) side.hold.style.transform = `translateX(${share(side.held) * BAR}px)`;
        if (figures && side.text) write(side.text, side.held > FLOOR ? signed(side.held) : "");
      });
      if (pointer) pointer.style.transform = `translateX(${((1 + smooth) / 2) * POINTER}px)`;
      if (figures && figure) write(figure, `${smooth >= 0 ? "+" : ""}${signed(smooth, 2)}`);
      if (figures) written = now;
      peaks = [0, 0];
    };
    request = requestAnimationFrame(draw);
    return () => {
      stop();
      cancelAnimationFrame(request);
    };
  }, [player]);
  return (
    <Box
      ref={root}
      display="grid"
      gridTemplateColumns="12px 120px 40px 84px"
      columnGap={2}
      rowGap={1}
      alignItems="center"
      fontSize="2xs"
      fontFamily="mono"
      role="img"
      aria-label="Levels and correlation of what is heard"
      ml="auto"
      flexShrink={0}
    >
      <Letter letter="L" color="left" />
      <Bar n={0} color="left" />
      <Text data-part="text0" color="fg.quiet" />
      <Box gridRow="span 2">
        <Box h="6px" bg="raised.high" borderRadius="full" position="relative">
          <Box
            data-part="corr"
            position="absolute"
            top="-3px"
            left={0}
            h="12px"
            w="3px"
            ml="-1px"
            bg="fg"
            willChange="transform"
          />
        </Box>
        <Box display="flex" justifyContent="space-between" color="fg.quiet" mt={1}>
          <span>−1</span>
          <span data-part="figure" />
          <span>+1</span>
        </Box>
      </Box>
      <Letter letter="R" color="right" />
      <Bar n={1} color="right" />
      <Text data-part="text1" color="fg.quiet" />
    </Box>
  );
}

const Letter = ({ letter, color }: { letter: string; color: string }) => (
  <Text color={color} fontWeight={700}>
    {letter}
  </Text>
);

const Bar = ({ n, color }: { n: number; color: string }) => (
  <Box h="8px" bg="raised.high" position="relative" borderRadius="sm" overflow="hidden">
    <Box
      data-part={`bar${n}`}
      h="full"
      bg={color}
      w="full"
      transform="scaleX(0)"
      transformOrigin="left"
      willChange="transform"
    />
    <Box
      data-part={`hold${n}`}
      position="absolute"
      top={0}
      bottom={0}
      left={0}
      w="2px"
      bg="fg"
      willChange="transform"
    />
  </Box>
);
