import { Flex } from "@chakra-ui/react";
import { useContext } from "react";
import { SelectField } from "../../../shared/fields";
import { duration } from "../../../shared/format";
import { Facts, SecondaryButton } from "../../../shared/parts";
import { inTime, TIMES, type TimeOf, trimTo } from "../../../shared/places";
import { RangeFields } from "../../../shared/RangeFields";
import { Place } from "../useInputMeasures";
import type { SettingsProps } from "./common";

export function TrimSettings({ step, turn, onChange }: SettingsProps<"trim">) {
  const { selected } = useContext(Place);
  const [out] = step.outputs;
  if (!out) return null;
  const { rate, start_time, frame_rate } = out;
  const startTime = start_time === null ? null : start_time - step.begins_at;
  const counted = (range: typeof turn, time: TimeOf) =>
    startTime === null ? range : inTime(range, time, { rate, startTime });
  const take = () => {
    const range = selected();
    if (range) onChange({ turn: counted({ ...trimTo(range, out), time: "file" }, turn.time) });
  };
  return (
    <>
      <Flex gap={2}>
        <RangeFields
          range={turn}
          clip={{ rate, frames: Number.POSITIVE_INFINITY, start_time: startTime, frame_rate }}
          ofDay={turn.time === "recorded"}
          onChange={(ends) => onChange({ turn: { ...turn, ...ends } })}
        />
      </Flex>
      {startTime !== null && (
        <SelectField
          label="Times are"
          value={turn.time}
          options={TIMES}
          onChange={(time) => onChange({ turn: counted(turn, time) })}
        />
      )}
      <SecondaryButton alignSelf="start" onClick={take}>
        trim to selected range
      </SecondaryButton>
      <Facts facts={[["length", duration(out.frames, rate)]]} />
    </>
  );
}
