/** Encode, decode and width: how much side. */
import { Text } from "@chakra-ui/react";
import { LIMITS } from "../../../api/limits.gen";
import type { Of } from "../../../api/turns";
import { SelectField, Toggle } from "../../../shared/fields";
import { gainText } from "../../../shared/format";
import { More } from "../../../shared/More";
import { readNumber, Value } from "../../../shared/Value";
import { OFF, sideLevel } from "../planeHandles";
import { useInputMeasures } from "../useInputMeasures";
import type { SettingsProps } from "./common";

type Scale = Of<"encode">["scale"];
const SCALES: readonly (readonly [Scale, string])[] = [
  ["half", "−6 dB: mid = (L + R) / 2"],
  ["power", "−3 dB: mid = (L + R) / √2"],
];

function ScaleField({ value, onChange }: { value: Scale; onChange: (scale: Scale) => void }) {
  return <SelectField label="M/S scaling" value={value} options={SCALES} onChange={onChange} />;
}

export function EncodeSettings({ turn, onChange }: SettingsProps<"encode">) {
  return <ScaleField value={turn.scale} onChange={(scale) => onChange({ turn: { ...turn, scale } })} />;
}

export function DecodeSettings({ step, turn, onChange }: SettingsProps<"decode">) {
  // With as much side as mid, left and right have nothing in common; beyond that they go against each other.
  const balance = useInputMeasures(step).data?.measures.sides?.balance_db;
  const poor = balance === null || balance === undefined ? null : turn.exchange ? -balance : balance;
  const set = (change: Partial<Of<"decode">>) => onChange({ turn: { ...turn, ...change } });
  return (
    <>
      <Value
        label="Side level"
        value={turn.side_db === "off" ? OFF : turn.side_db}
        limits={{ ...LIMITS.decode.side_db, least: OFF }}
        step={0.5}
        write={(db) => (db <= OFF ? "off" : gainText(db))}
        read={(text) => (/^\s*off/i.test(text) ? OFF : readNumber(text))}
        onChange={(db) => set({ side_db: sideLevel(db) })}
      />
      {poor !== null && (
        <Text
          textStyle="small"
          layerStyle={turn.side_db !== "off" && turn.side_db > poor ? "warning" : "quiet"}
        >
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
      <More changed={turn.scale !== "half"}>
        <ScaleField value={turn.scale} onChange={(scale) => set({ scale })} />
      </More>
    </>
  );
}

export function WidthSettings({ turn, onChange }: SettingsProps<"width">) {
  return (
    <Value
      label="Width"
      value={turn.width}
      limits={LIMITS.width.width}
      step={0.01}
      write={(width) => (width === 0 ? "mono" : `× ${width.toFixed(2)}`)}
      read={(text) => (/mono/i.test(text) ? 0 : readNumber(text))}
      onChange={(width) => onChange({ turn: { ...turn, width } })}
    />
  );
}
