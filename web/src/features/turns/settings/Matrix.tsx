import { Box, Text } from "@chakra-ui/react";
import type { Of } from "../../../api/turns";
import { Range } from "../../../shared/fields";
import { gainText, signed } from "../../../shared/format";
import { LARGEST_PART } from "../planeHandles";
import type { SettingsProps } from "./common";

const AMOUNTS: readonly (readonly [keyof Omit<Of<"matrix">, "kind">, string, string])[] = [
  ["ll", "left", "left"],
  ["lr", "left", "right"],
  ["rl", "right", "left"],
  ["rr", "right", "right"],
];

export function MatrixSettings({ turn, onChange }: SettingsProps<"matrix">) {
  return (
    <>
      {AMOUNTS.map(([name, out, into]) => (
        <Range
          key={name}
          label={`Out ${out}: of ${into}`}
          value={100 * turn[name]}
          min={-100 * LARGEST_PART}
          max={100 * LARGEST_PART}
          step={1}
          shown={`${signed(100 * turn[name], 0)} %`}
          onChange={(value) => onChange({ turn: { ...turn, [name]: value / 100 } })}
        />
      ))}
      <Headroom turn={turn} />
    </>
  );
}

/** By how much a side could exceed full scale, were both sides at full scale with the worst signs. */
function Headroom({ turn }: { turn: Of<"matrix"> }) {
  const worst = Math.max(Math.abs(turn.ll) + Math.abs(turn.lr), Math.abs(turn.rl) + Math.abs(turn.rr));
  return (
    <Box fontSize="xs" color="fg.quiet">
      <Text>{worst <= 1 ? "It can’t clip." : `Worst-case peak: ${gainText(20 * Math.log10(worst))}.`}</Text>
    </Box>
  );
}
