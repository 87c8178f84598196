/** The centre turn: what is made, how, where the wedge points, and what to expect. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useContext } from "react";
import { useExpectation } from "../../../api/queries";
import { type Of, stepOf } from "../../../api/turns";
import { Failed } from "../../../shared/Failed";
import { Range, SelectField, Toggle } from "../../../shared/fields";
import { panned } from "../../../shared/format";
import { OfferButton } from "../../../shared/parts";
import { bandOf, HIGHEST, highHz, LOWEST, lowHz } from "../kinds/band";
import { Place } from "../useInputMeasures";
import type { SettingsProps } from "./common";

type Centre = Of<"centre">;
const KEEPS: readonly (readonly [Centre["keep"], string])[] = [
  ["sides", "sides (centre removed)"],
  ["centre", "centre only"],
  ["both", "both, as two files"],
];
const METHODS: readonly (readonly [Centre["method"], string])[] = [
  ["voice", "voice: drums and bass stay"],
  ["wedge", "everything in the centre"],
  ["difference", "L − R: mono"],
];
const LOWS: readonly (readonly [Centre["lows"], string])[] = [
  ["both", "keep stereo"],
  ["left", "left only, mono"],
  ["right", "right only, mono"],
];

export function CentreSettings({ step, turn, onChange }: SettingsProps<"centre">) {
  const set = (change: Partial<Centre>) => onChange({ turn: { ...turn, ...change } });
  const masked = turn.method !== "difference";
  const band = bandOf(turn);
  const low = band.low;
  const high = Math.min(band.high, HIGHEST);
  return (
    <>
      <SelectField label="Keep" value={turn.keep} options={KEEPS} onChange={(keep) => set({ keep })} />
      <SelectField
        label="Separate"
        value={turn.method}
        options={METHODS}
        onChange={(method) => set({ method, replaces: "", ...(method !== "wedge" && { opening: 1 }) })}
      />
      <Range
        label="Low limit"
        value={Math.log(Math.max(low, LOWEST))}
        min={Math.log(LOWEST)}
        max={Math.log(1_000)}
        step={0.01}
        shown={low <= LOWEST ? "no limit" : `${Math.round(low)} Hz`}
        onChange={(value) => set({ low_hz: lowHz(Math.exp(value)) })}
      />
      <Range
        label="High limit"
        value={Math.log(high)}
        min={Math.log(2_000)}
        max={Math.log(HIGHEST)}
        step={0.01}
        shown={high >= HIGHEST - 50 ? "no limit" : `${(high / 1000).toFixed(1)} kHz`}
        onChange={(value) => set({ high_hz: highHz(Math.exp(value)) })}
      />
      {masked ? (
        <>
          <Range
            label="Selectivity"
            value={turn.strength}
            min={0.5}
            max={3}
            step={0.5}
            shown={turn.strength < 1 ? "deep" : turn.strength > 2.5 ? "clean" : turn.strength.toFixed(1)}
            onChange={(strength) => set({ strength })}
          />
          <Range
            label="Depth"
            value={turn.depth}
            min={0}
            max={1}
            step={0.01}
            shown={turn.depth < 1 ? `${Math.round(100 * turn.depth)} % (leaves a guide vocal)` : "100 %"}
            onChange={(depth) => set({ depth })}
          />
          <Range
            label="Position"
            value={turn.position}
            min={-1}
            max={1}
            step={0.02}
            shown={panned(turn.position)}
            onChange={(position) => set({ position })}
          />
          {turn.method === "wedge" && (
            <Range
              label="Wedge width"
              value={turn.opening}
              min={0.3}
              max={3}
              step={0.05}
              shown={`× ${turn.opening.toFixed(2)}`}
              onChange={(opening) => set({ opening })}
            />
          )}
          <Toggle
            label="Protect drums"
            on={turn.protect_drums}
            onChange={(protect_drums) => set({ protect_drums })}
          />
        </>
      ) : (
        low > 0 && (
          <SelectField
            label="SessionDeps the band"
            value={turn.lows}
            options={LOWS}
            onChange={(lows) => set({ lows })}
          />
        )
      )}
      <Expected step={step} turn={turn} set={set} />
    </>
  );
}

/** What to expect before it is done, and what the material suggests. */
function Expected(props: {
  step: SettingsProps<"centre">["step"];
  turn: Centre;
  set: (change: Partial<Centre>) => void;
}) {
  const { job, revision, keyOf, insertBefore } = useContext(Place);
  const ref = props.step.inputs[0] ?? "";
  const expectation = useExpectation({ job, revision, clip: ref }, keyOf(ref));
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
        <Box
          key={finding.code}
          borderLeftWidth={3}
          borderColor="trouble"
          pl={3}
          data-testid={`finding-${finding.code}`}
        >
          <Text>{finding.message}</Text>
          {finding.remedy && (
            <OfferButton
              mt={1.5}
              onClick={() => finding.remedy && insertBefore(props.step.id, stepOf(finding.remedy, [ref]))}
            >
              {finding.remedy.label} first
            </OfferButton>
          )}
        </Box>
      ))}
      {!same && (
        <OfferButton onClick={() => props.set(suggested)}>
          use suggested:{" "}
          {[
            turn.method !== "voice" && `from ${low_hz} Hz`,
            (position !== 0 || turn.method === "voice") && panned(position),
          ]
            .filter(Boolean)
            .join(", ")}
        </OfferButton>
      )}
    </Flex>
  );
}
