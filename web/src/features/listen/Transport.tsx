/** Play, where we are, In or Out, and what to listen to. */
import { Box, Flex, IconButton, NativeSelect, Text } from "@chakra-ui/react";
import { Pause, Play, Repeat } from "lucide-react";
import { useEffect, useRef } from "react";
import { clock } from "../../shared/format";
import { Choice, Choices } from "../../shared/parts";
import { Meters } from "./Meters";
import type { Side } from "./messages";
import { MODE_LABELS, MODES, type Mode } from "./modes";
import type { Player, PlayerState } from "./player";
import type { Range } from "./Stage";

type Props = {
  state: PlayerState;
  rate: number;
  frames: number;
  position: () => number;
  side: Side;
  hasOut: boolean;
  mode: Mode;
  channels: number;
  pair: readonly [number, number];
  range: Range | null;
  loop: boolean;
  player: Player;
  /** What In, Out and In less Out are called. */
  called: readonly [string, string, string];
  /** In less Out is heard. */
  apart: boolean;
  /** Out is played as loud as In. */
  matched: boolean;
  canMatch: boolean;
  onApart: (apart: boolean) => void;
  onMatch: (matched: boolean) => void;
  onPlay: () => void;
  onSide: (side: Side) => void;
  onMode: (mode: Mode) => void;
  onPair: (pair: [number, number]) => void;
  onLoop: () => void;
};

export function Transport(props: Props) {
  const { state, rate, frames, position, side, hasOut, mode, channels, range } = props;
  const time = useRef<HTMLParagraphElement>(null);
  useEffect(() => {
    let request = 0;
    let written = 0;
    const follow = (now: number) => {
      request = requestAnimationFrame(follow);
      const text = clock(position() / rate);
      if (!time.current || now - written < 40 || time.current.textContent === text) return;
      time.current.textContent = text;
      written = now;
    };
    follow(performance.now());
    return () => cancelAnimationFrame(request);
  }, [position, rate]);
  return (
    <Flex
      as="footer"
      align="center"
      gap={3}
      px={4}
      h={14}
      borderTopWidth={1}
      borderColor="line"
      flexShrink={0}
    >
      <IconButton
        aria-label={state.playing ? "Pause (Space)" : "Play (Space)"}
        title={state.playing ? "Pause (Space)" : "Play (Space)"}
        onClick={props.onPlay}
        size="sm"
        px={4}
        bg="raised.high"
        color="fg"
        disabled={frames === 0}
      >
        {state.playing ? <Pause /> : <Play />}
      </IconButton>
      <IconButton
        aria-label="Loop the range"
        aria-pressed={props.loop}
        title="Loop the range (l)"
        onClick={props.onLoop}
        size="sm"
        variant="ghost"
        color={props.loop ? "fg" : "fg.quiet"}
        bg={props.loop ? "raised.high" : "transparent"}
        disabled={!range}
      >
        <Repeat />
      </IconButton>
      <Flex
        fontFamily="mono"
        align="baseline"
        gap={2}
        minW="10.5rem"
        whiteSpace="nowrap"
        flexShrink={0}
        data-testid="position"
      >
        <Text as="span" ref={time} fontSize="md" />
        <Text as="span" color="fg.quiet" fontSize="xs">
          / {clock(frames / rate)}
        </Text>
      </Flex>
      <Choices label="Which side of the turn">
        {props.called.slice(0, 2).map((label, n) => (
          <Choice
            key={label}
            chosen={side === n && !props.apart}
            disabled={n === 1 && !hasOut}
            title={`Listen to ${n ? "Out" : "In"}: ${label} (q switches)`}
            onClick={() => {
              props.onApart(false);
              props.onSide(n as Side);
            }}
          >
            {label}
          </Choice>
        ))}
        <Choice
          chosen={props.apart && hasOut}
          disabled={!hasOut}
          title="What sets them apart: In less Out (x)"
          onClick={() => props.onApart(!props.apart)}
        >
          {props.called[2]}
        </Choice>
      </Choices>
      <Choice
        chosen={props.matched && hasOut}
        disabled={!hasOut || !props.canMatch}
        title="Play Out as loud as In, by their loudness in LUFS (m)"
        onClick={() => props.onMatch(!props.matched)}
      >
        same loudness
      </Choice>
      <Choices label="What to listen to">
        {MODES.map((one) => (
          <Choice
            key={one}
            chosen={mode === one}
            disabled={channels === 1 && one !== "stereo"}
            title={MODE_LABELS[one].title}
            onClick={() => props.onMode(one)}
          >
            {MODE_LABELS[one].short}
          </Choice>
        ))}
      </Choices>
      {channels > 2 && <PairChoice channels={channels} pair={props.pair} onPair={props.onPair} />}
      {state.waiting && state.playing && <Text color="fg.quiet">loading…</Text>}
      <Meters player={props.player} />
    </Flex>
  );
}

/** Of more than two channels, which two go to the ears. */
function PairChoice(props: {
  channels: number;
  pair: readonly [number, number];
  onPair: (pair: [number, number]) => void;
}) {
  const { channels, pair, onPair } = props;
  const select = (ear: 0 | 1, label: string) => (
    <NativeSelect.Root size="xs" w={20}>
      <NativeSelect.Field
        aria-label={label}
        value={pair[ear]}
        onChange={(event) => {
          const next: [number, number] = [pair[0], pair[1]];
          next[ear] = Number(event.target.value);
          onPair(next);
        }}
      >
        {Array.from({ length: channels }, (_, channel) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a channel is its number
          <option key={channel} value={channel}>
            {ear ? "R" : "L"}: {channel + 1}
          </option>
        ))}
      </NativeSelect.Field>
      <NativeSelect.Indicator />
    </NativeSelect.Root>
  );
  return (
    <Box display="flex" gap={1}>
      {select(0, "Channel in the left ear")}
      {select(1, "Channel in the right ear")}
    </Box>
  );
}
