/** Align: how much later each channel goes, typed in or found. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useContext, useState } from "react";
import type { Lateness } from "../../../api/client";
import { useLateness } from "../../../api/queries";
import { Committed } from "../../../shared/Committed";
import { channelNames } from "../../../shared/channelNames";
import { FieldGroup } from "../../../shared/fields";
import { SecondaryButton } from "../../../shared/parts";
import { numberIn } from "../../../shared/places";
import { replaced } from "../replaced";
import { Place } from "../useInputMeasures";
import type { SettingsProps } from "./common";

export function AlignSettings({ step, turn, onChange }: SettingsProps<"align">) {
  const names = channelNames(turn.delay.length, step.outputs[0]);
  return (
    <>
      <FieldGroup label="Delay (samples)">
        {turn.delay.map((samples, n) => (
          <Flex key={names[n]} align="center" gap={2}>
            <Text w={16}>{names[n]}</Text>
            <Committed
              label={`Delay of ${names[n]}`}
              value={String(samples)}
              refuse={(text) =>
                numberIn(text) === null ? `“${text.trim()}” is not a number of samples.` : null
              }
              onCommit={(text) =>
                onChange({ turn: { ...turn, delay: replaced(turn.delay, n, numberIn(text) ?? samples) } })
              }
              onStep={(by, large) =>
                onChange({
                  turn: { ...turn, delay: replaced(turn.delay, n, samples + by * (large ? 10 : 1)) },
                })
              }
            />
          </Flex>
        ))}
      </FieldGroup>
      <FoundDelays
        key={step.id}
        step={step}
        turn={turn}
        names={names}
        onDelay={(delay) => onChange({ turn: { ...turn, delay } })}
      />
    </>
  );
}

/** Delays that align all channels, the earliest of them unmoved last; null where one is not sure. */
export function delaysOf(found: readonly Pick<Lateness, "samples">[]): number[] | null {
  const late = [0, ...found.map((one) => one.samples)];
  if (late.some((samples) => samples === null)) return null;
  const latest = Math.max(...(late as number[]));
  return (late as number[]).map((samples) => Number((latest - samples).toFixed(3)));
}

type FoundProps = Pick<SettingsProps<"align">, "step" | "turn"> & {
  names: string[];
  onDelay: (delay: number[]) => void;
};

function FoundDelays({ step, turn, names, onDelay }: FoundProps) {
  const { job, revision, keyOf } = useContext(Place);
  const [asked, setAsked] = useState(false);
  const clip = step.inputs[0] ?? "";
  const { data, error, isFetching, refetch } = useLateness({ job, revision, clip }, keyOf(clip), asked);
  const rate = step.outputs[0]?.rate ?? 48_000;
  if (!asked)
    return (
      <SecondaryButton alignSelf="start" onClick={() => setAsked(true)}>
        Measure the delay
      </SecondaryButton>
    );
  if (error && !data)
    return (
      <Flex direction="column" gap={2} align="start" role="alert">
        <Text layerStyle="danger">The delay could not be measured: {String(error)}</Text>
        <SecondaryButton onClick={() => void refetch()}>Try again</SecondaryButton>
      </Flex>
    );
  if (!data) return <Text layerStyle="quiet">{isFetching ? "Measuring…" : ""}</Text>;
  const delay = delaysOf(data);
  return (
    <Flex direction="column" gap={2} data-testid="found-delays">
      {data.map((one) => (
        <Box key={one.channel}>
          <Text>{said(one, names, rate)}</Text>
          <Curve found={one} name={names[one.channel - 1] ?? ""} />
        </Box>
      ))}
      {delay && String(delay) !== String(turn.delay) && (
        <SecondaryButton alignSelf="start" onClick={() => onDelay(delay)}>
          align: {delay.join(", ")} samples later
        </SecondaryButton>
      )}
    </Flex>
  );
}

/** What was found of one channel, in a sentence. */
export function said(
  { channel, samples, confidence, inverted: isInverted, drift }: Lateness,
  names: string[],
  rate: number,
) {
  const [first, name] = [names[0] ?? "channel 1", names[channel - 1] ?? `channel ${channel}`];
  const sure = `confidence ${confidence.toFixed(2)}`;
  const inverted = isInverted ? ", inverted" : "";
  if (drift)
    return `${name} drifts against ${first} by ${drift.ppm} ppm: ${drift.at_start} samples late at the start, ${drift.at_end} at the end. No single delay aligns all of it.`;
  if (samples === null)
    return `The delay of ${name} against ${first} is uncertain (${sure}): zoom in and compare, or set it by ear.`;
  if (samples === 0) return `${name} is in time with ${first}${inverted} (${sure}).`;
  const by = `${Math.abs(samples)} ${Math.abs(samples) === 1 ? "sample" : "samples"}`;
  const ms = `${((1000 * Math.abs(samples)) / rate).toFixed(2)} ms`;
  return `${name} is ${by} (${ms}) ${samples > 0 ? "behind" : "ahead of"} ${first}${inverted} (${sure}).`;
}

const [WIDTH, HEIGHT] = [240, 48];

/** The correlation by delay, with its peak. */
function Curve({ found: { curve, curve_start }, name }: { found: Lateness; name: string }) {
  const last = Math.max(1, curve.length - 1);
  const points = curve.map((value, n) => `${(n / last) * WIDTH},${HEIGHT / 2 - (value * HEIGHT) / 2}`);
  const end = curve_start + curve.length - 1;
  return (
    <Box mt={1}>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        width="100%"
        height={HEIGHT}
        role="img"
        aria-label={`Correlation of ${name} by delay, from ${curve_start} to ${end} samples`}
      >
        <line x1={0} x2={WIDTH} y1={HEIGHT / 2} y2={HEIGHT / 2} stroke="var(--chakra-colors-line)" />
        <polyline points={points.join(" ")} fill="none" stroke="var(--chakra-colors-fg)" strokeWidth={1} />
      </svg>
      <Flex justify="space-between" layerStyle="figures">
        <span>{curve_start}</span>
        <span>{end} samples</span>
      </Flex>
    </Box>
  );
}
