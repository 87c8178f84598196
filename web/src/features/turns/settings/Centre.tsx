/** The centre turn: what is made, how, where the wedge points, and what to expect. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useContext } from "react";
import { LIMITS } from "../../../api/limits.gen";
import { useExpectation, useForecast } from "../../../api/queries";
import { type Of, stepOf } from "../../../api/turns";
import { Failed } from "../../../shared/Failed";
import { SelectField, Toggle } from "../../../shared/fields";
import { panned, readPan } from "../../../shared/format";
import { More } from "../../../shared/More";
import { SecondaryButton } from "../../../shared/parts";
import { useSettled } from "../../../shared/settled";
import { readNumber, Value } from "../../../shared/Value";
import { bandOf, HIGHEST, highHz, LOWEST, lowHz } from "../kinds/band";
import { Place } from "../useInputMeasures";
import type { SettingsProps } from "./common";

type Centre = Of<"centre">;
const KEEPS: readonly (readonly [Centre["keep"], string])[] = [
  ["sides", "Without the centre"],
  ["centre", "Centre only"],
  ["both", "Both, as two files"],
];
const METHODS: readonly (readonly [Centre["method"], string])[] = [
  ["voice", "Voice: drums and bass stay"],
  ["wedge", "Everything inside the wedge"],
  ["difference", "Mono difference (L − R)"],
];
const LOWS: readonly (readonly [Centre["lows"], string])[] = [
  ["both", "Keep stereo"],
  ["left", "Left only, mono"],
  ["right", "Right only, mono"],
];

const NO_LIMIT = "no limit";
const isNoLimit = (text: string) => /^\s*(no|off|none)/i.test(text);
const hertzText = (hertz: number) =>
  hertz < 1_000 ? `${Math.round(hertz)} Hz` : `${(hertz / 1_000).toFixed(2)} kHz`;
const readPercent = (text: string) => {
  const number = readNumber(text);
  return number === null ? null : number / 100;
};

export function CentreSettings({ step, turn, onChange }: SettingsProps<"centre">) {
  const set = (change: Partial<Centre>) => onChange({ turn: { ...turn, ...change } });
  const masked = turn.method !== "difference";
  const band = bandOf(turn);
  const low = band.low;
  const high = Math.min(band.high, HIGHEST);
  return (
    <>
      <SelectField label="Output" value={turn.keep} options={KEEPS} onChange={(keep) => set({ keep })} />
      <SelectField
        label="Method"
        value={turn.method}
        options={METHODS}
        onChange={(method) => set({ method, replaces: "", ...(method !== "wedge" && { opening: 1 }) })}
      />
      {masked && (
        <Value
          label="Amount"
          value={turn.depth}
          limits={LIMITS.centre.depth}
          step={0.01}
          write={(depth) => `${Math.round(100 * depth)} %`}
          read={readPercent}
          onChange={(depth) => set({ depth })}
        />
      )}
      {masked && (
        <Value
          label="Position"
          value={turn.position}
          limits={LIMITS.centre.position}
          step={0.02}
          write={panned}
          read={readPan}
          onChange={(position) => set({ position })}
        />
      )}
      <Value
        label="Low limit"
        value={low}
        limits={LIMITS.centre.low_hz}
        span={[LOWEST, 1_000]}
        step={1}
        logarithmic
        write={(hertz) => (hertz <= LOWEST ? NO_LIMIT : hertzText(hertz))}
        read={(text) => (isNoLimit(text) ? 0 : readNumber(text))}
        onChange={(hertz) => set({ low_hz: lowHz(hertz) })}
      />
      {!masked && low > 0 && (
        <SelectField
          label="Outside the band"
          value={turn.lows}
          options={LOWS}
          onChange={(lows) => set({ lows })}
        />
      )}
      <More
        changed={
          turn.high_hz !== null || turn.strength !== LIMITS.centre.strength.usual || turn.protect_drums
        }
      >
        <Value
          label="High limit"
          value={high}
          limits={{ ...LIMITS.centre.high_hz, most: HIGHEST }}
          span={[2_000, HIGHEST]}
          step={1}
          logarithmic
          write={(hertz) => (hertz >= HIGHEST - 50 ? NO_LIMIT : hertzText(hertz))}
          read={(text) => (isNoLimit(text) ? HIGHEST : readNumber(text))}
          onChange={(hertz) => set({ high_hz: highHz(hertz) })}
        />
        {masked && (
          <>
            <Value
              label="Selectivity"
              value={turn.strength}
              limits={LIMITS.centre.strength}
              span={[0.5, 3]}
              step={0.25}
              write={(strength) => strength.toFixed(2)}
              onChange={(strength) => set({ strength })}
            />
            {turn.method === "wedge" && (
              <Value
                label="Wedge width"
                value={turn.opening}
                limits={LIMITS.centre.opening}
                span={[0.3, 3]}
                step={0.05}
                write={(opening) => `× ${opening.toFixed(2)}`}
                onChange={(opening) => set({ opening })}
              />
            )}
            <Toggle
              label="Protect drums"
              on={turn.protect_drums}
              onChange={(protect_drums) => set({ protect_drums })}
            />
          </>
        )}
      </More>
      {turn.method === "voice" && turn.version < LIMITS.centre.version.usual && (
        <SecondaryButton onClick={() => set({ version: LIMITS.centre.version.usual })}>
          Use version {LIMITS.centre.version.usual} of the voice method
        </SecondaryButton>
      )}
      {masked && <HowWell step={step} turn={turn} set={set} />}
      <Expected step={step} turn={turn} set={set} />
    </>
  );
}

interface Shown {
  step: SettingsProps<"centre">["step"];
  turn: Centre;
  set: (change: Partial<Centre>) => void;
}

/** How well a voice should come out, and the method that should do better. */
function HowWell({ step, turn, set }: Shown) {
  const { job, revision, keyOf } = useContext(Place);
  const ref = step.inputs[0] ?? "";
  const position = useSettled(turn.position, step.id, 400);
  const forecast = useForecast({ job, revision, clip: ref }, keyOf(ref), position);
  if (forecast.isError && !forecast.data)
    return (
      <Failed what="How well it should work could not be measured." onRetry={() => void forecast.refetch()} />
    );
  if (!forecast.data) return <Text layerStyle="note">Measuring how well it should work…</Text>;
  const { better } = forecast.data.forecast;
  const byVoice = turn.method === "voice";
  if (!byVoice && better === "wedge") return null;
  return (
    <Flex direction="column" gap={2} data-testid="forecast">
      <Text {...(better === turn.method || !byVoice ? {} : { layerStyle: "callout" })}>
        {byVoice ? forecast.data.message : "For a voice alone, the voice method should do better here."}
      </Text>
      {better !== turn.method && (
        <SecondaryButton onClick={() => set({ method: better, opening: 1, replaces: "" })}>
          {better === "wedge" ? "Use the wedge" : "Use the voice method"}
        </SecondaryButton>
      )}
    </Flex>
  );
}

/** What to expect before it is done, and what the material suggests. */
function Expected(props: Shown) {
  const { job, revision, keyOf, insertBefore } = useContext(Place);
  const ref = props.step.inputs[0] ?? "";
  const expectation = useExpectation({ job, revision, clip: ref }, keyOf(ref), props.turn.method);
  const expected = expectation.data;
  if (expectation.isError && !expected)
    return <Failed what="The suggestion could not be measured." onRetry={() => void expectation.refetch()} />;
  if (!expected) return null;
  const { low_hz, position } = expected.expectation;
  const { turn } = props;
  // The voice mask leaves the bass by itself: only the wedge needs a limit.
  const suggested = turn.method === "voice" ? { position } : { low_hz, position };
  const same = turn.position === position && (turn.method === "voice" || bandOf(turn).low === low_hz);
  return (
    <Flex direction="column" gap={2}>
      {expected.findings.map((finding) => (
        <Box key={finding.code} layerStyle="callout" data-testid={`finding-${finding.code}`}>
          <Text>{finding.message}</Text>
          {finding.remedy && (
            <SecondaryButton
              mt={2}
              onClick={() => finding.remedy && insertBefore(props.step.id, stepOf(finding.remedy, [ref]))}
            >
              {finding.remedy.label} first
            </SecondaryButton>
          )}
        </Box>
      ))}
      {!same && (
        <SecondaryButton onClick={() => props.set(suggested)}>
          Use suggestion:{" "}
          {[
            turn.method !== "voice" && `from ${low_hz} Hz`,
            (position !== 0 || turn.method === "voice") && panned(position),
          ]
            .filter(Boolean)
            .join(", ")}
        </SecondaryButton>
      )}
    </Flex>
  );
}
