/** One range for every file of a delivery: in the files' own time, or by the clock they were recorded at. */
import { Flex } from "@chakra-ui/react";
import type { Clip, DeliveryRange } from "../../api/client";
import { Select } from "../../shared/fields";
import { SecondaryButton } from "../../shared/parts";
import { inTime, type SelectedRange, type TimeOf, trimTo } from "../../shared/places";
import { RangeFields } from "../../shared/RangeFields";
import { Choice } from "./Choice";

const CHOICES = [
  ["whole", "Whole files"],
  ["file", "Same range in every file"],
  ["recorded", "Same time of day"],
] as const;
const ALL = { kind: "trim", start: 0, end: "end", time: "file" } as const;

type Props = {
  range: DeliveryRange;
  /** What is delivered. */
  clips: Clip[];
  /** What is selected over what was listened to last. */
  selected: () => SelectedRange | null;
  onRange: (range: DeliveryRange) => void;
};

export function RangeChoice({ range, clips, selected, onRange }: Props) {
  const timed = clips.find((clip) => clip.start_time !== null);
  const counted = (trim: NonNullable<DeliveryRange>, time: TimeOf, heard: SelectedRange | null) => {
    const rate = heard?.rate ?? timed?.rate;
    const startTime = heard?.startTime ?? timed?.start_time;
    return rate && startTime != null ? inTime(trim, time, { rate, startTime }) : { ...trim, time };
  };
  const choose = (choice: "whole" | TimeOf) => {
    if (choice === "whole") return onRange(null);
    const heard = selected();
    onRange(range ? counted(range, choice, heard) : taken(choice, heard));
  };
  const taken = (time: TimeOf, heard: SelectedRange | null) =>
    // Seconds, not samples: the files may have other rates.
    counted(heard ? { ...ALL, ...trimTo(heard, { rate: 0 }) } : ALL, time, heard);
  return (
    <Choice label="Range">
      <Select
        label="Range of each file"
        value={range?.time ?? "whole"}
        options={CHOICES}
        onChange={choose}
        size="sm"
        width="17rem"
      />
      {range && (
        <>
          <Flex gap={2} w="16rem">
            <RangeFields
              range={range}
              clip={{
                rate: timed?.rate ?? 48_000,
                frames: Number.POSITIVE_INFINITY,
                frame_rate: timed?.frame_rate ?? null,
              }}
              ofDay={range.time === "recorded"}
              onChange={(ends) => onRange({ ...range, ...ends })}
            />
          </Flex>
          {selected() && (
            <SecondaryButton onClick={() => onRange(taken(range.time, selected()))}>
              the selected range
            </SecondaryButton>
          )}
        </>
      )}
    </Choice>
  );
}
