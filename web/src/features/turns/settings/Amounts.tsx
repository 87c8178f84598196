/** Sum, level and DC: one amount for each input or channel. */
import { Flex } from "@chakra-ui/react";
import { LIMITS } from "../../../api/limits.gen";
import { channelNames } from "../../../shared/channelNames";
import { Toggle } from "../../../shared/fields";
import { gainText, signed } from "../../../shared/format";
import { SecondaryButton } from "../../../shared/parts";
import { Value } from "../../../shared/Value";
import { GAINS_DB } from "../planeHandles";
import { replaced } from "../replaced";
import { useInputMeasures } from "../useInputMeasures";
import type { SettingsProps } from "./common";
import { Hushes } from "./Hushes";

export function SumSettings({ step, turn, names, onChange }: SettingsProps<"sum">) {
  const gains = step.inputs.map((_, n) => turn.gains_db[n] ?? 0);
  return (
    <>
      {step.inputs.map((ref, n) => {
        const name = names.get(ref) ?? `input ${n + 1}`;
        const flipped = turn.flip.includes(n + 1);
        const flip = flipped
          ? turn.flip.filter((one) => one !== n + 1)
          : [...turn.flip, n + 1].sort((a, b) => a - b);
        return (
          <Flex key={ref} role="group" aria-label={`${name}: level and polarity`} direction="column" gap={1}>
            <Value
              label={name}
              value={gains[n] ?? 0}
              limits={{ ...LIMITS.sum.gains_db, usual: 0 }}
              span={GAINS_DB}
              step={0.1}
              write={gainText}
              onChange={(db) => onChange({ turn: { ...turn, gains_db: replaced(gains, n, db) } })}
            />
            <Toggle label="Invert" on={flipped} onChange={() => onChange({ turn: { ...turn, flip } })} />
          </Flex>
        );
      })}
    </>
  );
}

/** As wide as offsets are that recordings have. */
const OFFSETS = [-10, 10] as const;

const percent = (value: number) => `${signed(value, 3)} %`;

export function DcSettings({ step, turn, onChange }: SettingsProps<"dc">) {
  const names = channelNames(step.matrix.length, step.outputs[0]);
  const offsets = names.map((_, n) => turn.offset[n] ?? turn.offset[0] ?? 0);
  const channels = useInputMeasures(step).data?.measures.channels ?? [];
  const measured = channels.map((channel) => Math.round(1e8 * channel.steady_dc) / 1e6);
  return (
    <>
      {offsets.map((offset, n) => (
        <Value
          key={names[n]}
          label={names[n] ?? ""}
          value={offset}
          limits={{ ...LIMITS.dc.offset, usual: 0 }}
          span={OFFSETS}
          step={0.001}
          write={percent}
          onChange={(value) => onChange({ turn: { ...turn, offset: replaced(offsets, n, value) } })}
        />
      ))}
      {measured.length === offsets.length && String(measured) !== String(offsets) && (
        <SecondaryButton alignSelf="start" onClick={() => onChange({ turn: { ...turn, offset: measured } })}>
          Use the measured offset: {measured.map(percent).join(", ")}
        </SecondaryButton>
      )}
    </>
  );
}

export function LevelSettings(props: SettingsProps<"level">) {
  const { step, turn, onChange } = props;
  const count = step.matrix.length;
  const even = useInputMeasures(step).data?.even_gains_db;
  const together = turn.gains_db.length === 1;
  const gains = together ? [turn.gains_db[0] ?? 0] : turn.gains_db;
  const names = together ? ["all channels"] : channelNames(count, step.outputs[0]);
  return (
    <>
      {gains.map((db, n) => (
        <Value
          key={names[n]}
          label={names[n] ?? ""}
          value={db}
          limits={{ ...LIMITS.level.gains_db, usual: 0 }}
          span={GAINS_DB}
          step={0.1}
          write={gainText}
          onChange={(value) => onChange({ turn: { ...turn, gains_db: replaced(gains, n, value) } })}
        />
      ))}
      {count > 1 && (
        <Toggle
          label="Set channels separately"
          on={!together}
          onChange={(each) =>
            onChange({
              turn: { ...turn, gains_db: each ? Array(count).fill(gains[0] ?? 0) : [gains[0] ?? 0] },
            })
          }
        />
      )}
      {even && String(even) !== String(turn.gains_db) && (
        <SecondaryButton
          alignSelf="start"
          onClick={() => onChange({ turn: { ...turn, gains_db: [...even] } })}
        >
          Match channels: {even.map((db) => gainText(db)).join(", ")}
        </SecondaryButton>
      )}
      <Hushes {...props} />
    </>
  );
}
