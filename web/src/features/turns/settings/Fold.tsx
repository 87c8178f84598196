import { Flex, Text } from "@chakra-ui/react";
import { LIMITS } from "../../../api/limits.gen";
import type { Of } from "../../../api/turns";
import { RadioField, SelectField } from "../../../shared/fields";
import { decibels } from "../../../shared/format";
import { readNumber, Value } from "../../../shared/Value";
import { useInputMeasures } from "../useInputMeasures";
import type { SettingsProps } from "./common";
import { SecondMicrophone } from "./SecondMicrophone";

const TAKES: readonly (readonly [Of<"fold">["take"], string])[] = [
  ["left", "Left only"],
  ["right", "Right only"],
  ["sum", "L + R"],
  ["blend", "Blend"],
];
const LAWS: readonly (readonly [Of<"fold">["law"], string])[] = [
  ["average", "−6 dB (÷ 2)"],
  ["power", "−3 dB (÷ √2)"],
  ["full", "0 dB"],
];

export function FoldSettings({ step, turn, onChange }: SettingsProps<"fold">) {
  const set = (change: Partial<Of<"fold">>) => onChange({ turn: { ...turn, ...change } });
  return (
    <>
      <SelectField label="Mono from" value={turn.take} options={TAKES} onChange={(take) => set({ take })} />
      {turn.take === "sum" && <Laws step={step} law={turn.law} onChange={(law) => set({ law })} />}
      {turn.take === "blend" && (
        <Value
          label="Blend L : R"
          value={turn.blend}
          limits={LIMITS.fold.blend}
          step={0.01}
          write={blendText}
          read={readBlend}
          onChange={(blend) => set({ blend })}
        />
      )}
      {(turn.take === "sum" || turn.take === "blend") && (
        <SecondMicrophone step={step} turn={turn} onChange={set} />
      )}
    </>
  );
}

const blendText = (blend: number) => `${Math.round(100 - 100 * blend)} : ${Math.round(100 * blend)}`;

/** The part of left: `40 : 60`, or `40` alone. */
function readBlend(text: string): number | null {
  const left = readNumber(text);
  return left === null ? null : 1 - left / 100;
}

/** No hidden law: each with what it does to this very material. */
function Laws(props: {
  step: SettingsProps<"fold">["step"];
  law: Of<"fold">["law"];
  onChange: (law: Of<"fold">["law"]) => void;
}) {
  const sides = useInputMeasures(props.step).data?.measures.sides;
  return (
    <Flex direction="column" gap={1}>
      <RadioField
        label="Sum gain"
        value={props.law}
        options={LAWS}
        beside={(law) => decibels(sides?.fold_dbfs[law], "dBFS")}
        onChange={props.onChange}
      />
      {sides?.mono_fold_loss_db !== undefined && (
        <Text layerStyle="note">
          {sides.mono_fold_loss_db === null
            ? "Left and right cancel completely."
            : `${decibels(sides.mono_fold_loss_db)} is lost to cancellation (0 dB for identical, 3 dB for uncorrelated channels).`}
        </Text>
      )}
    </Flex>
  );
}
