/** Play, where we are, In or Out, and what to listen to. */
import { Box, Button, Flex, IconButton, NativeSelect, Text } from "@chakra-ui/react";
import { Pause, Play, Repeat } from "lucide-react";
import { type ReactNode, useEffect, useRef } from "react";
import { clock } from "../../shared/format";
import type { Side } from "./messages";
import { MODE_LABELS, MODES, type Mode } from "./modes";
import type { PlayerState } from "./player";
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
    const follow = () => {
      if (time.current) time.current.textContent = clock(position() / rate);
      request = requestAnimationFrame(follow);
    };
    follow();
    return () => cancelAnimationFrame(request);
  }, [position, rate]);
  return (
    <Flex
      as="footer"
      align="center"
      gap={4}
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
        minW="11.5rem"
        whiteSpace="nowrap"
        flexShrink={0}
        data-testid="position"
      >
        <Text as="span" ref={time} fontSize="lg" />
        <Text as="span" color="fg.quiet" fontSize="xs">
          / {clock(frames / rate)}
        </Text>
      </Flex>
      <Group label="Which side of the turn">
        {(["In", "Out"] as const).map((label, n) => (
          <Choice
            key={label}
            chosen={side === n}
            disabled={n === 1 && !hasOut}
            title={`Listen to ${label} (q switches)`}
            onClick={() => props.onSide(n as Side)}
          >
            {label}
          </Choice>
        ))}
      </Group>
      <Group label="What to listen to">
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
      </Group>
      {channels > 2 && <PairChoice channels={channels} pair={props.pair} onPair={props.onPair} />}
      {state.waiting && state.playing && <Text color="fg.quiet">loading…</Text>}
      {range && (
        <Text ml="auto" color="fg.quiet" fontFamily="mono" fontSize="xs" data-testid="range">
          {clock(range[0] / rate)} – {clock(range[1] / rate)} · {(range[1] - range[0]).toLocaleString("en")}{" "}
          samples
        </Text>
      )}
    </Flex>
  );
}

function Group({ label, children }: { label: string; children: ReactNode }) {
  return (
    <Flex role="group" aria-label={label} bg="raised" borderRadius="md" p={0.5} gap={0.5}>
      {children}
    </Flex>
  );
}

function Choice(props: {
  chosen: boolean;
  disabled: boolean;
  title: string;
  onClick: () => void;
  children: ReactNode;
}) {
  return (
    <Button
      size="xs"
      variant="ghost"
      aria-pressed={props.chosen}
      disabled={props.disabled}
      title={props.title}
      onClick={props.onClick}
      color={props.chosen ? "fg" : "fg.quiet"}
      bg={props.chosen ? "raised.high" : "transparent"}
      fontWeight={props.chosen ? 600 : 400}
      px={3}
    >
      {props.children}
    </Button>
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
