/** Levels of both ears with their highest peak held, and the correlation of what is heard now. */
import { Box, Button, Text } from "@chakra-ui/react";
import { useCallback, useEffect, useRef, useState } from "react";
import { signed } from "../../shared/format";
import { keepsFocus } from "../../shared/parts";
import { useFrames, useSession } from "./context";
import { FLOOR, Levels } from "./levels";
import { SIDES, type Side } from "./messages";

const share = (db: number) => Math.max(0, Math.min(1, (db - FLOOR) / -FLOOR));
const POINTER = 108;
/** What is written between the bars, in dBFS, and what else where they are long. */
const MARKS = [-48, -36, -24, -12, 0];
const MORE_MARKS = [-18, -6, -3];
/** Figures change so often, bars more often. */
const FIGURES_EVERY = 120; // milliseconds
const BARS_EVERY = 30;

function write(element: HTMLElement | null, text: string) {
  if (element && element.textContent !== text) element.textContent = text;
}

type EarParts = { bar: HTMLElement | null; hold: HTMLElement | null; text: HTMLElement | null };

export function Meters() {
  const { player } = useSession();
  const [levels] = useState(() => new Levels());
  const [over, setOver] = useState<readonly Side[]>([]);
  const ears = useRef<[EarParts, EarParts]>([
    { bar: null, hold: null, text: null },
    { bar: null, hold: null, text: null },
  ]);
  const pointer = useRef<HTMLDivElement>(null);
  const figure = useRef<HTMLSpanElement>(null);
  const times = useRef({ drawn: 0, written: 0 });
  useEffect(() => player.listen((heard) => levels.take(heard)), [player, levels]);
  useFrames(
    useCallback(
      (now: number) => {
        const passed = now - times.current.drawn;
        if (passed < BARS_EVERY) return true;
        times.current.drawn = now;
        const moves = levels.pass(Math.min(passed, 100), now);
        const figures = !moves || now - times.current.written > FIGURES_EVERY;
        if (figures) times.current.written = now;
        for (const side of SIDES) {
          const [level, parts] = [levels.ears[side], ears.current[side]];
          // Moved, not laid out anew: the page stands still around it.
          if (parts.bar) parts.bar.style.transform = `scaleX(${share(level.shown)})`;
          if (parts.hold) {
            parts.hold.style.transform = `translateX(${100 * (share(level.held) - 1)}%)`;
            parts.hold.style.visibility = level.held > FLOOR ? "visible" : "hidden";
          }
          if (figures) write(parts.text, level.held > FLOOR ? signed(level.held) : "");
        }
        const { correlation } = levels;
        if (pointer.current) {
          pointer.current.style.visibility = correlation === null ? "hidden" : "visible";
          pointer.current.style.transform = `translateX(${((1 + (correlation ?? 0)) / 2) * POINTER}px)`;
        }
        if (figures)
          write(
            figure.current,
            correlation === null ? "–" : `${correlation >= 0 ? "+" : ""}${signed(correlation, 2)}`,
          );
        const gone = SIDES.filter((side) => levels.ears[side].over);
        setOver((before) => (before.length === gone.length ? before : gone));
        return moves;
      },
      [levels],
    ),
  );
  const part = (side: Side, name: keyof EarParts) => (element: HTMLElement | null) => {
    ears.current[side][name] = element;
  };
  const clear = () => {
    levels.clearOver();
    setOver([]);
  };
  return (
    <Box
      layerStyle="meter"
      gridTemplateColumns="12px minmax(100px, 1fr) 44px 108px"
      columnGap={2}
      flex="1 1 250px"
      maxW="640px"
      role="group"
      aria-label="Levels and correlation of what is heard"
    >
      <Scale />
      {SIDES.map((side) => (
        <Ear key={side} side={side} part={part} over={over.includes(side)} onClear={clear} />
      ))}
      <Box gridRow="1 / span 3" gridColumn={4}>
        <Box layerStyle="track" h="6px" overflow="visible">
          <Box
            ref={pointer}
            position="absolute"
            top="-3px"
            left={0}
            h="12px"
            w="3px"
            ml="-1px"
            bg="fg"
            visibility="hidden"
            willChange="transform"
          />
        </Box>
        <Box layerStyle="quiet" display="flex" justifyContent="space-between" mt={1}>
          <span>−1</span>
          <span ref={figure} data-testid="correlation">
            –
          </span>
          <span>+1</span>
        </Box>
      </Box>
    </Box>
  );
}

/** Between the bars, for both. */
function Scale() {
  return (
    <Box layerStyle="quiet" gridRow={2} gridColumn={2} position="relative" h="14px" aria-hidden>
      {[...MARKS, ...MORE_MARKS].map((db) => (
        <Box
          key={db}
          display={MARKS.includes(db) ? "block" : { base: "none", "2xl": "block" }}
          position="absolute"
          left={`${100 * share(db)}%`}
          transform={db === 0 ? "translateX(-100%)" : "translateX(-50%)"}
          top="1px"
        >
          {db === 0 ? "0" : `−${-db}`}
        </Box>
      ))}
    </Box>
  );
}

function Ear(props: {
  side: Side;
  part: (side: Side, name: keyof EarParts) => (element: HTMLElement | null) => void;
  over: boolean;
  onClear: () => void;
}) {
  const { side, part, over, onClear } = props;
  const color = side ? "right" : "left";
  const row = side ? 3 : 1;
  return (
    <>
      <Text textStyle="strong" gridRow={row} gridColumn={1} color={color}>
        {side ? "R" : "L"}
      </Text>
      <Box gridRow={row} gridColumn={2} h="8px" layerStyle="track">
        <Box
          ref={part(side, "bar")}
          h="full"
          bg={color}
          w="full"
          transform="scaleX(0)"
          transformOrigin="left"
          willChange="transform"
        />
        <Box
          ref={part(side, "hold")}
          position="absolute"
          inset={0}
          layerStyle="hold"
          visibility="hidden"
          willChange="transform"
        />
      </Box>
      {over ? (
        <Button
          {...keepsFocus}
          gridRow={row}
          gridColumn={3}
          size="2xs"
          h="14px"
          minW={0}
          px={1}
          colorPalette="red"
          aria-label={`${side ? "Right" : "Left"} over 0 dBFS: reset`}
          title="Over 0 dBFS. Click to reset."
          onClick={onClear}
        >
          CLIP
        </Button>
      ) : (
        <Text layerStyle="quiet" gridRow={row} gridColumn={3} textAlign="right" ref={part(side, "text")} />
      )}
    </>
  );
}
