import { Flex } from "@chakra-ui/react";
import type { Of } from "../../../api/turns";
import { channelNames } from "../../../shared/channelNames";
import { FieldGroup, SelectField, Toggle } from "../../../shared/fields";
import type { SettingsProps } from "./common";

const WORDS: readonly (readonly ["left" | "right" | "both", string])[] = [
  ["left", "Left"],
  ["right", "Right"],
  ["both", "Both channels"],
];

export function PolaritySettings({ step, turn, onChange }: SettingsProps<"polarity">) {
  const count = step.matrix.length;
  const set = (channels: Of<"polarity">["channels"]) => onChange({ turn: { ...turn, channels } });
  if (count === 1) return null;
  if (count === 2 && !Array.isArray(turn.channels))
    return <SelectField label="Invert" value={turn.channels} options={WORDS} onChange={set} />;
  const flipped = step.matrix.flatMap((row, n) => ((row[n] ?? 1) < 0 ? [n + 1] : []));
  const toggle = (n: number) => {
    const next = flipped.includes(n)
      ? flipped.filter((one) => one !== n)
      : [...flipped, n].sort((a, b) => a - b);
    if (next.length) set(next);
  };
  const names = channelNames(step.matrix.length, step.outputs[0]);
  return (
    <FieldGroup label="Invert">
      <Flex direction="column" gap={1}>
        {step.matrix.map((_, n) => (
          <Toggle
            // biome-ignore lint/suspicious/noArrayIndexKey: channels are told by their numbers
            key={n}
            label={names[n] ?? ""}
            on={flipped.includes(n + 1)}
            onChange={() => toggle(n + 1)}
          />
        ))}
      </Flex>
    </FieldGroup>
  );
}
