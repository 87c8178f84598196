import { Box, Flex, Text } from "@chakra-ui/react";
import { ArrowLeftRight } from "lucide-react";
import type { Of } from "../../../api/turns";
import { SelectField } from "../../../shared/fields";
import { Name } from "../../../shared/Name";
import { QuietButton } from "../../../shared/parts";
import type { SettingsProps } from "./common";

const LAYOUTS: readonly (readonly [Of<"merge">["layout"], string])[] = [
  ["auto", "Automatic"],
  ["stereo", "Stereo"],
  ["LCR", "LCR (left, right, centre)"],
  ["quad", "Quad"],
  ["LCRS", "LCRS (left, right, centre, rear centre)"],
  ["5.0", "5.0"],
  ["5.1", "5.1"],
  ["6.1", "6.1"],
  ["7.0", "7.0"],
  ["7.1", "7.1"],
  ["discrete", "Discrete (no speaker positions)"],
];

export function MergeSettings(props: SettingsProps<"merge">) {
  const { step, turn, names, onChange } = props;
  const sides = step.carries[0] ?? [];
  const given = turn.order === "given";
  const name = (channel: number) =>
    (given && names.get(step.inputs[channel] ?? "")) || (sides[channel]?.[0] ?? "");
  const speakers = step.outputs[0]?.speakers ?? [];
  const letter = (n: number) => (sides.length === 2 ? (n ? "R" : "L") : (speakers[n] ?? String(n + 1)));
  const exchange = () => {
    // The order is the user's from now on, whatever the names say.
    const alike = new Set(step.inputs.map((ref) => names.get(ref))).size < step.inputs.length;
    const inputs =
      given || alike
        ? [...step.inputs].reverse()
        : [...step.inputs].sort(
            (a, b) => Number(names.get(a) === name(0)) - Number(names.get(b) === name(0)),
          );
    onChange({ turn: { ...turn, order: "given" }, inputs });
  };
  return (
    <>
      <Flex gap={2} align="center">
        <Box flex={1} minW={0} maxH="180px" overflowY="auto">
          {sides.map((_, n) => (
            <Side key={letter(n)} letter={letter(n)} name={name(n)} />
          ))}
        </Box>
        {sides.length === 2 && (
          <QuietButton onClick={exchange}>
            <ArrowLeftRight size={16} /> Swap L/R
          </QuietButton>
        )}
      </Flex>
      {sides.length > 2 && (
        <SelectField
          label="Layout"
          value={turn.layout}
          options={LAYOUTS}
          onChange={(layout) => onChange({ turn: { ...turn, layout } })}
        />
      )}
      <SelectField
        label="Align by"
        value={turn.line_up}
        options={[
          ["recorded", "Timestamp"],
          ["file", "File start"],
        ]}
        onChange={(line_up) => onChange({ turn: { ...turn, line_up } })}
      />
      <SelectField
        label="Different lengths"
        value={turn.length}
        options={[
          ["pad", "Pad with silence"],
          ["trim", "Trim to the shortest"],
        ]}
        onChange={(length) => onChange({ turn: { ...turn, length } })}
      />
    </>
  );
}

function Side({ letter, name }: { letter: string; name: string }) {
  const color = letter === "L" ? "left" : letter === "R" ? "right" : "fg.quiet";
  return (
    <Flex gap={2} align="baseline" data-testid={`side-${letter}`}>
      <Text textStyle="strong" color={color} minW={3}>
        {letter}
      </Text>
      <Name>{name}</Name>
    </Flex>
  );
}
