import { Text } from "@chakra-ui/react";

/** Encode, decode and width: how much side. */

import type { Of } from "../../../api/turns";
import { Range, SelectField, Toggle } from "../../../shared/fields";
import { gainText } from "../../../shared/format";
import { SIDE_DB, WIDEST } from "../planeHandles";
import { useInputMeasures } from "../useInputMeasures";
import type { SettingsProps } from "./common";

type Scale = Of<"encode">["scale"];
const SCALES: readonly (readonly [Scale, string])[] = [
  ["half", "−6 dB: mid = (L + R) / 2"],
  ["power", "−3 dB: mid = (L + R) / √2"],
];

function ScaleField({ value, onChange }: { value: Scale; onChange: (scale: Scale) => void }) {
  return <SelectField label="Scale" value={value} options={SCALES} onChange={onChange} />;
}

export function EncodeSettings({ turn, onChange }: SettingsProps<"encode">) {
  return <ScaleField value={turn.scale} onChange={(scale) => onChange({ turn: { ...turn, scale } })} />;
}

/** The lowest place of the line means no side at all. */
const OFF = SIDE_DB.least - 0.5;

export function DecodeSettings({ step, turn, onChange }: SettingsProps<"decode">) {
  // With as much side as mid, left and right have nothing in common; beyond that they go against each other.
  const balance = useInputMeasures(step).data?.measures.sides?.balance_db;
  const poor = balance === null || balance === undefined ? null : turn.exchange ? -balance : balance;
  const set = (change: Partial<Of<"decode">>) => onChange({ turn: { ...turn, ...change } });
  const amount = turn.side_db === "off" ? OFF : turn.side_db;
  return (
    <>
      <Range
        label="Side level"
        value={amount}
        min={OFF}
        max={SIDE_DB.most}
        step={0.5}
        shown={turn.side_db === "off" ? "off" : gainText(turn.side_db)}
        onChange={(value) => set({ side_db: value < SIDE_DB.least ? "off" : value })}
      />
      {poor !== null && (
        <Text fontSize="xs" color={turn.side_db !== "off" && turn.side_db > poor ? "trouble" : "fg.quiet"}>
          Above {gainText(poor)} the side is louder than the mid: correlation turns negative and a mono sum
          loses more than 3 dB.
        </Text>
      )}
      <Toggle label="Swap M and S" on={turn.exchange} onChange={(exchange) => set({ exchange })} />
      <Toggle
        label="Invert side (swaps L/R)"
        on={turn.flip_side}
        onChange={(flip_side) => set({ flip_side })}
      />
      <ScaleField value={turn.scale} onChange={(scale) => set({ scale })} />
    </>
  );
}

export function WidthSettings({ turn, onChange }: SettingsProps<"width">) {
  return (
    <Range
      label="Width"
      value={turn.width}
      min={0}
      max={WIDEST}
      step={0.01}
      shown={turn.width === 0 ? "mono" : `× ${turn.width.toFixed(2)}`}
      onChange={(width) => onChange({ turn: { ...turn, width } })}
    />
  );
}
