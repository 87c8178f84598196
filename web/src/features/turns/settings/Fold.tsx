import { Box, Text } from "@chakra-ui/react";
import { decibels } from "../../../shared/format";
import { Field, Range, Select } from "../../../shared/parts";
import { useInputMeasures } from "../useInputMeasures";
import type { Of, SettingsProps } from "./common";

const TAKES: readonly (readonly [Of<"fold">["take"], string])[] = [
  ["left", "left alone"],
  ["right", "right alone"],
  ["sum", "the sum of both"],
  ["blend", "a blend of both"],
];
const LAWS: readonly (readonly [Of<"fold">["law"], string])[] = [
  ["average", "× ½"],
  ["power", "× 0.7071"],
  ["full", "× 1"],
];

export function FoldSettings({ step, turn, onChange }: SettingsProps<"fold">) {
  const set = (change: Partial<Of<"fold">>) => onChange({ turn: { ...turn, ...change } });
  return (
    <>
      <Field label="Take">
        <Select label="Take" value={turn.take} options={TAKES} onChange={(take) => set({ take })} />
      </Field>
      {turn.take === "sum" && <Laws step={step} law={turn.law} onChange={(law) => set({ law })} />}
      {turn.take === "blend" && (
        <Range
          label="Left to right"
          value={turn.blend}
          min={0}
          max={1}
          step={0.01}
          shown={`${Math.round(100 - 100 * turn.blend)} : ${Math.round(100 * turn.blend)}`}
          onChange={(blend) => set({ blend })}
        />
      )}
    </>
  );
}

/** No hidden law: each with what it does to this very material. */
function Laws(props: {
  step: SettingsProps<"fold">["step"];
  law: string;
  onChange: (law: Of<"fold">["law"]) => void;
}) {
  const sides = useInputMeasures(props.step)?.sides;
  return (
    <Field label="Law">
      {LAWS.map(([law, name]) => (
        <Box
          as="label"
          key={law}
          display="flex"
          gap={2}
          alignItems="center"
          px={2}
          py={1}
          borderRadius="md"
          bg={law === props.law ? "raised.high" : "transparent"}
        >
          <input type="radio" name="law" checked={law === props.law} onChange={() => props.onChange(law)} />
          <Text flex={1}>{name}</Text>
          <Text fontFamily="mono" fontSize="xs" color="fg.quiet">
            {decibels(sides?.fold_dbfs[law], "dBFS")}
          </Text>
        </Box>
      ))}
      {sides?.mono_fold_loss_db !== undefined && (
        <Text fontSize="xs" color="fg.quiet">
          {sides.mono_fold_loss_db === null
            ? "Everything cancels."
            : `${decibels(sides.mono_fold_loss_db)} are lost by what cancels: 0 dB of equal sides, 3 dB of unrelated ones.`}
        </Text>
      )}
    </Field>
  );
}
