/** A number: dragged, stepped by the arrows, typed, or reset by a double click. */
import { Box, chakra, Flex, Input } from "@chakra-ui/react";
import { type KeyboardEvent, useId } from "react";
import { Committed } from "./Committed";

export type Limits = { readonly least: number; readonly most: number; readonly usual: number | null };

type Props = {
  label: string;
  value: number;
  limits: Limits;
  /** What an arrow key adds; with Shift, ten of it. */
  step: number;
  /** The part of the limits that the slider covers; it is stretched to a value beyond. */
  span?: readonly [number, number];
  /** For values that are heard by their ratio, such as frequencies. */
  logarithmic?: boolean;
  /** How a value is written, and which value a text says; by default a number with any unit behind it. */
  write: (value: number) => string;
  read?: (text: string) => number | null;
  onChange: (value: number) => void;
};

const LARGE = 10;
/** One part in a hundred, as the arrows move a logarithmic slider. */
const RATIO = 0.01;

export function Value(props: Props) {
  const { label, value, limits, step, span, logarithmic = false, write, read = readNumber, onChange } = props;
  const id = useId();
  const clamp = (to: number) => Math.max(limits.least, Math.min(limits.most, to));
  const set = (to: number) => {
    const next = clamp(roundTo(to, step));
    if (next !== value) onChange(next);
  };
  const reset = () => limits.usual !== null && onChange(limits.usual);
  const [from, to] = span ?? [limits.least, limits.most];
  const { place, min, max } = placesOn(logarithmic ? Math.log : same, value, from, to);
  const valueAt = (at: number) => (logarithmic ? Math.exp(at) : at);
  const unit = logarithmic ? RATIO : step;
  const stepLarge = (event: KeyboardEvent) => {
    const by = DIRECTIONS[event.key];
    if (!event.shiftKey || !by) return;
    event.preventDefault();
    set(valueAt(place + by * LARGE * unit));
  };
  return (
    <Flex
      direction="column"
      title={limits.usual === null ? undefined : `Double-click: ${write(limits.usual)}`}
    >
      <Flex justify="space-between" align="center" gap={2}>
        <chakra.label htmlFor={id} layerStyle="note" minW={0} onDoubleClick={reset}>
          {label}
        </chakra.label>
        <Box w="6.5rem" flexShrink={0}>
          <Committed
            label={`${label}: value`}
            value={write(value)}
            figure
            refuse={(text) => refusal(read(text), limits, write)}
            onCommit={(text) => onChange(read(text) ?? value)}
            onStep={(by, large) => set(value + by * step * (large ? LARGE : 1))}
          />
        </Box>
      </Flex>
      <Input
        unstyled
        id={id}
        type="range"
        className="range"
        aria-valuetext={write(value)}
        min={min}
        max={max}
        step={unit}
        value={place}
        onChange={(event) => set(valueAt(Number(event.target.value)))}
        onKeyDown={stepLarge}
        onDoubleClick={reset}
      />
    </Flex>
  );
}

/** Where a value and the ends stand on the slider: no lower than its start where that is a logarithm. */
function placesOn(placeOf: (value: number) => number, value: number, from: number, to: number) {
  const place = placeOf(placeOf === same ? value : Math.max(value, from));
  return { place, min: Math.min(placeOf(from), place), max: Math.max(placeOf(to), place) };
}

const same = (value: number) => value;
const DIRECTIONS: Record<string, number> = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 };
const roundTo = (value: number, step: number) => Number((Math.round(value / step) * step).toFixed(6));

/** The first number of a text, with a point or a comma, in thousands where it says `k`; null where there is none. */
export function readNumber(text: string): number | null {
  const number = /[-−+]?\s*\d+(?:[.,]\d+)?/.exec(text);
  if (!number) return null;
  const value = Number(number[0].replace(/\s/g, "").replace("−", "-").replace(",", "."));
  return /^\s*k/i.test(text.slice(number.index + number[0].length)) ? 1000 * value : value;
}

/** Why a value can't be taken, or null. */
function refusal(value: number | null, limits: Limits, write: Props["write"]): string | null {
  return value !== null && value >= limits.least && value <= limits.most
    ? null
    : `Enter a value from ${write(limits.least)} to ${write(limits.most)}.`;
}
