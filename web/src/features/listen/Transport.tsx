/** Play, where we are, In or Out, and what to listen to. */
import { Box, Flex, IconButton, NativeSelect, Text } from "@chakra-ui/react";
import { Pause, Play, Repeat } from "lucide-react";
import { useCallback, useRef } from "react";
import { Choices, PressedButton } from "../../shared/choices";
import { useLabel } from "../../shared/commands";
import { clock, gainText } from "../../shared/format";
import { Tip } from "../../shared/Tip";
import { useFrames, useListen, useSession } from "./context";
import { LoudnessMeter } from "./LoudnessMeter";
import type { Matching } from "./listenState";
import { Meters } from "./Meters";
import { MODE_LABELS, MODES } from "./modes";

const WRITE_EVERY = 40; // milliseconds

export function Transport() {
  const session = useSession();
  const playing = useListen((state) => state.playing);
  const waiting = useListen((state) => state.waiting);
  const frames = useListen((state) => state.frames);
  const channels = useListen((state) => state.channels);
  const loop = useListen((state) => state.loop);
  const range = useListen((state) => state.range);
  const mode = useListen((state) => state.mode);
  const withKeys = useLabel();
  const label = withKeys(playing ? "Pause" : "Play", "play");
  return (
    <Flex as="footer" layerStyle="bar" columnGap={3} rowGap={1} py={1}>
      <Tip text={label}>
        <IconButton
          aria-label={label}
          onClick={() => session.toggle()}
          size="sm"
          px={4}
          variant="subtle"
          disabled={frames === 0}
        >
          {playing ? <Pause /> : <Play />}
        </IconButton>
      </Tip>
      <Tip text={withKeys("Loop the range", "loop")}>
        <IconButton
          aria-label="Loop the range"
          aria-pressed={loop}
          onClick={() => session.toggleLoop()}
          size="sm"
          variant="ghost"
          disabled={!range}
        >
          <Repeat />
        </IconButton>
      </Tip>
      <Time />
      <BeforeAfterChoices />
      <MatchChoice />
      <Choices
        label="Monitor"
        value={mode}
        options={MODES.map((one) => ({
          value: one,
          text: MODE_LABELS[one].short,
          tip: withKeys(MODE_LABELS[one].title, one),
          disabled: channels === 1 && one !== "stereo",
        }))}
        onChange={(one) => session.setMode(one)}
      />
      {channels > 2 && <PairChoice />}
      {waiting && playing && <Text layerStyle="quiet">buffering…</Text>}
      <Flex flex="1 1 22rem" gap={3} align="center" justify="end" minW={0}>
        <LoudnessMeter />
        <Meters />
      </Flex>
    </Flex>
  );
}

/** Where the playhead is. */
function Time() {
  const { player } = useSession();
  const rate = useListen((state) => state.rate);
  const frames = useListen((state) => state.frames);
  const time = useRef<HTMLParagraphElement>(null);
  const written = useRef(0);
  useFrames(
    useCallback(
      (now: number) => {
        const text = clock(player.position / rate);
        if (!time.current || time.current.textContent === text) return false;
        if (now - written.current < WRITE_EVERY) return true;
        time.current.textContent = text;
        written.current = now;
        return false;
      },
      [player, rate],
    ),
  );
  return (
    <Flex
      textStyle="mono"
      align="baseline"
      gap={2}
      minW="10.5rem"
      whiteSpace="nowrap"
      flexShrink={0}
      data-testid="position"
    >
      <Text as="span" ref={time} textStyle="time" />
      <Text as="span" layerStyle="note">
        / {clock(frames / rate)}
      </Text>
    </Flex>
  );
}

/** In, Out, or their difference. */
function BeforeAfterChoices() {
  const session = useSession();
  const { output, labels } = useListen((state) => state.shown);
  const difference = useListen((state) => state.difference && state.shown.output !== null);
  const monitor = useListen((state) => (state.shown.output ? state.monitor : 0));
  const withKeys = useLabel();
  return (
    <Choices
      label="Before or after"
      value={difference ? "difference" : monitor ? "out" : "in"}
      options={[
        { value: "in", text: labels[0], tip: withKeys(`Listen to ${labels[0]}`, "switchSide") },
        {
          value: "out",
          text: labels[1],
          tip: withKeys(`Listen to ${labels[1]}`, "switchSide"),
          disabled: !output,
        },
        {
          value: "difference",
          text: labels[2],
          tip: withKeys("Difference: In minus Out", "inMinusOut"),
          disabled: !output,
        },
      ]}
      onChange={(one) =>
        one !== "difference"
          ? session.listenTo(one === "out" ? 1 : 0)
          : !difference && session.toggleDifference()
      }
    />
  );
}

/** Louder is easily taken for better: Out can be played as loud as In. */
function MatchChoice() {
  const session = useSession();
  const output = useListen((state) => state.shown.output);
  const on = useListen((state) => state.matched && state.shown.output !== null);
  const match = useListen((state) => state.match);
  const matching = useListen((state) => state.matching);
  const difference = useListen((state) => state.difference);
  const db = gainText(20 * Math.log10(match));
  const withKeys = useLabel();
  const [words, tip] = !on ? MATCH_OFF : difference ? MATCH_OF_DIFFERENCE : matchWords(matching, db);
  return (
    <PressedButton
      pressed={on}
      disabled={!output}
      tip={withKeys(tip, "levelMatch")}
      onClick={() => session.toggleMatch()}
    >
      {words}
    </PressedButton>
  );
}

const MATCH_OFF = ["Level match", "Match Out’s loudness to In"] as const;
const MATCH_OF_DIFFERENCE = [
  "Level match",
  "The difference is of In and Out as they are, without level match",
] as const;

function matchWords(matching: Matching, db: string): readonly [string, string] {
  switch (matching) {
    case "measuring":
      return ["Level match …", "Measuring how loud In and Out are"];
    case "matched":
      return [`Level match ${db}`, `Out is played at ${db}, as loud as In by LUFS`];
    case "limited":
      return [
        `Level match ${db}, limited`,
        `Out is still quieter than In: ${db} is the most without clipping`,
      ];
    case "silent":
      return ["Not matched", "In or Out is silent, or too short to measure its loudness"];
    case "failed":
      return ["Not matched", "The loudness could not be measured. Switch off and on to try again."];
  }
}

/** Of more than two channels, which two go to the ears. */
function PairChoice() {
  const session = useSession();
  const channels = useListen((state) => state.channels);
  const pair = useListen((state) => state.pair);
  const lane = useListen((state) => state.lanes[0]?.lane);
  const labels = lane?.clips.flatMap((clip) => clip.labels) ?? [];
  const names = labels.length === channels ? labels : [];
  const select = (ear: 0 | 1, label: string) => (
    <NativeSelect.Root size="xs" w={names.length ? 24 : 20}>
      <NativeSelect.Field
        aria-label={label}
        value={pair[ear]}
        onChange={(event) => {
          const next: [number, number] = [pair[0], pair[1]];
          next[ear] = Number(event.target.value);
          session.setPair(next);
        }}
      >
        {Array.from({ length: channels }, (_, channel) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a channel is its number
          <option key={channel} value={channel}>
            {ear ? "R" : "L"}: {names[channel] || channel + 1}
          </option>
        ))}
      </NativeSelect.Field>
      <NativeSelect.Indicator />
    </NativeSelect.Root>
  );
  return (
    <Box display="flex" gap={1}>
      {select(0, "Channel to left output")}
      {select(1, "Channel to right output")}
    </Box>
  );
}
