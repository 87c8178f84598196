import { Box, Text } from "@chakra-ui/react";
import { LIMITS } from "../../../api/limits.gen";
import type { Of } from "../../../api/turns";
import { gainText, signed } from "../../../shared/format";
import { readNumber, Value } from "../../../shared/Value";
import type { SettingsProps } from "./common";

const AMOUNTS: readonly (readonly [keyof Omit<Of<"matrix">, "kind">, string, string])[] = [
  ["ll", "L", "L"],
  ["lr", "L", "R"],
  ["rl", "R", "L"],
  ["rr", "R", "R"],
];

export function MatrixSettings({ turn, onChange }: SettingsProps<"matrix">) {
  return (
    <>
      {AMOUNTS.map(([name, out, into]) => (
        <Value
          key={name}
          label={`${into} → ${out}`}
          value={turn[name]}
          limits={LIMITS.matrix[name]}
          step={0.01}
          write={partText}
          read={readPart}
          onChange={(value) => onChange({ turn: { ...turn, [name]: value } })}
        />
      ))}
      <Headroom turn={turn} />
    </>
  );
}

/** In per cent, and in decibels where it is neither nothing nor all of it. */
function partText(part: number) {
  const percent = `${signed(100 * part, 0)} %`;
  const size = Math.abs(part);
  return size === 0 || size === 1 ? percent : `${percent} ${gainText(20 * Math.log10(size))}`;
}

/** Per cent, or decibels where the text says so. */
function readPart(text: string): number | null {
  const number = readNumber(text);
  if (number === null) return null;
  return /db/i.test(text) && !text.includes("%") ? 10 ** (number / 20) : number / 100;
}

/** By how much a side could exceed full scale, were both sides at full scale with the worst signs. */
function Headroom({ turn }: { turn: Of<"matrix"> }) {
  const worst = Math.max(Math.abs(turn.ll) + Math.abs(turn.lr), Math.abs(turn.rl) + Math.abs(turn.rr));
  return (
    <Box layerStyle="note">
      <Text>{worst <= 1 ? "Can’t clip." : `Worst-case peak: ${gainText(20 * Math.log10(worst))}.`}</Text>
    </Box>
  );
}
