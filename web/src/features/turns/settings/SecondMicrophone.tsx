/** The right as a second microphone on the same source: its polarity and delay, and how both add up by band. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useContext } from "react";
import type { Blending, Step } from "../../../api/client";
import { useBlending } from "../../../api/queries";
import type { Of } from "../../../api/turns";
import { Committed } from "../../../shared/Committed";
import { Field, Toggle } from "../../../shared/fields";
import { correlation as correlationText, gainText } from "../../../shared/format";
import { SecondaryButton } from "../../../shared/parts";
import { numberIn } from "../../../shared/places";
import { useSettled } from "../../../shared/settled";
import { Place } from "../useInputMeasures";

type Fold = Of<"fold">;
type Props = { step: Step; turn: Fold; onChange: (change: Partial<Fold>) => void };

export function SecondMicrophone({ step, turn, onChange }: Props) {
  const { job, revision, keyOf } = useContext(Place);
  const clip = step.inputs[0] ?? "";
  const share = useSettled(turn.take === "blend" ? turn.blend : 0.5, step.id);
  const set = { share, delay: turn.delay, flip: turn.flip_right };
  const { data } = useBlending({ job, revision, clip }, keyOf(clip), set);
  const best = data?.best;
  const differs = best && (best.flip !== turn.flip_right || best.delay !== turn.delay);
  return (
    <>
      <Toggle label="Invert right" on={turn.flip_right} onChange={(flip_right) => onChange({ flip_right })} />
      <Field label="Delay of right (samples)">
        <Committed
          label="Delay of right (samples)"
          value={String(turn.delay)}
          refuse={(text) => (numberIn(text) === null ? `“${text.trim()}” is not a number of samples.` : null)}
          onCommit={(text) => onChange({ delay: numberIn(text) ?? turn.delay })}
        />
      </Field>
      {data && <Bands found={data} />}
      {best && differs && (best.confidence !== null || best.gain_db > 0) && (
        <SecondaryButton
          alignSelf="start"
          h="auto"
          py={2}
          whiteSpace="normal"
          textAlign="left"
          onClick={() => onChange({ flip_right: best.flip, delay: best.delay })}
        >
          Best low-end sum: {bestText(best)}
        </SecondaryButton>
      )}
    </>
  );
}

/** What the best sum takes, how sure that is, and what it gives the low end, which decides where nothing else does. */
export function bestText({ flip, delay, gain_db, confidence }: NonNullable<Blending["best"]>) {
  const parts = [
    flip ? "right inverted" : "",
    delay ? `right ${Math.abs(delay)} samples ${delay > 0 ? "later" : "earlier"}` : "",
  ].filter(Boolean);
  const sure = confidence === null ? "by the low end alone" : `confidence ${confidence.toFixed(2)}`;
  return `${parts.join(", ") || "no change"} (${sure}), lows ${gainText(gain_db)}`;
}

const [MOST, LEAST] = [6, -18]; // dB
const WIDTH = 100; // percent

/** Each octave of the sum against both by themselves: to the right it adds up, to the left it cancels. */
function Bands({ found: { bands, correlation } }: { found: Blending }) {
  const at = (db: number) => (WIDTH * (Math.max(LEAST, Math.min(MOST, db)) - LEAST)) / (MOST - LEAST);
  return (
    <Box data-testid="blend-bands">
      <Text layerStyle="note">
        Mono sum per octave
        {correlation !== null && ` · correlation ${correlationText(correlation)}`}
      </Text>
      {bands.map(({ hertz, level_db }) => {
        const level = level_db ?? 0;
        return (
          <Flex textStyle="figure" key={hertz} align="center" gap={2}>
            <Text layerStyle="quiet" w="3.5em" textAlign="right">
              {hertz < 1000 ? hertz : `${hertz / 1000}k`}
            </Text>
            <Box position="relative" flex={1} h="8px" bg="raised">
              <Box position="absolute" left={`${at(0)}%`} top={0} bottom={0} w="1px" bg="fg.quiet" />
              <Box
                position="absolute"
                top={0}
                bottom={0}
                bg={level < -3 ? "warning" : "fg"}
                left={`${Math.min(at(0), at(level))}%`}
                w={`${Math.abs(at(level) - at(0))}%`}
              />
            </Box>
            <Text w="5.5em" textAlign="right">
              {gainText(level_db)}
            </Text>
          </Flex>
        );
      })}
    </Box>
  );
}
