import { useContext } from "react";
import { LIMITS } from "../../../api/limits.gen";
import { SelectField } from "../../../shared/fields";
import { duration, kilohertz, ratesOf } from "../../../shared/format";
import { More } from "../../../shared/More";
import { Facts } from "../../../shared/parts";
import { Value } from "../../../shared/Value";
import { Place } from "../useInputMeasures";
import type { SettingsProps } from "./common";

const USUAL = [44_100, 48_000, 88_200, 96_000, 192_000];

export function ResampleSettings({ step, turn, onChange }: SettingsProps<"resample">) {
  const { files } = useContext(Place);
  const [out] = step.outputs;
  const set = (rate: number) => onChange({ turn: { ...turn, rate } });
  const rates = ratesOf([...USUAL.map((rate) => ({ rate })), turn, ...files]);
  const labelOf = (rate: number) => {
    const atRate = files.filter((file) => file.rate === rate).map((file) => file.name);
    return atRate.length
      ? `${kilohertz(rate)}, as ${atRate[0]}${atRate.length > 1 ? " and others" : ""}`
      : kilohertz(rate);
  };
  return (
    <>
      <SelectField
        label="Sample rate"
        value={String(turn.rate)}
        options={rates.map((rate) => [String(rate), labelOf(rate)] as const)}
        onChange={(rate) => set(Number(rate))}
      />
      <More changed={!USUAL.includes(turn.rate)}>
        <Value
          label="Rate in Hz"
          value={turn.rate}
          limits={LIMITS.resample.rate}
          span={[8_000, 192_000]}
          logarithmic
          step={1}
          write={(rate) => `${rate} Hz`}
          onChange={set}
        />
      </More>
      {out && (
        <Facts
          facts={[
            ["length", duration(out.frames, out.rate)],
            ["samples", out.frames.toLocaleString("en")],
          ]}
        />
      )}
    </>
  );
}
