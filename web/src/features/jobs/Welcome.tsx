/** What the product does, for who has no job yet: one picture and three lines. */
import { Box, Flex, Progress, Text } from "@chakra-ui/react";
import { SecondaryButton } from "../../shared/parts";
import { useDemo } from "./useDemo";

const LINES = [
  ["Drop the files as they came.", "Pairs are found by their names, problems by their sound."],
  [
    "Add a turn.",
    "Merge, split, swap, invert, decode M/S, remove vocals: heard at once, undone at any time.",
  ],
  ["Deliver.", "Every written file is compared with its source, sample for sample."],
] as const;

export function Welcome() {
  const { progress, open } = useDemo();
  return (
    <Flex gap={6} align="center" wrap="wrap" layerStyle="card">
      <Picture />
      <Box flex={1} minW="16rem">
        {LINES.map(([what, how]) => (
          <Text key={what} mb={2}>
            <b>{what}</b>{" "}
            <Text layerStyle="quiet" as="span">
              {how}
            </Text>
          </Text>
        ))}
        {progress === null ? (
          <SecondaryButton onClick={open}>Open the demo job</SecondaryButton>
        ) : (
          <Box role="status" maxW="20rem">
            <Text layerStyle="note" mb={1}>
              Making the demo’s files…
            </Text>
            <Progress.Root value={100 * progress}>
              <Progress.Track aria-label="Progress of the demo">
                <Progress.Range />
              </Progress.Track>
            </Progress.Root>
          </Box>
        )}
      </Box>
    </Flex>
  );
}

const WAVE = [6, 14, 9, 20, 12, 24, 16, 22, 10, 15, 7, 4];

/** Two files become one, whose halves are still theirs. */
function Picture() {
  const bars = (x: number, y: number, sign: 1 | -1, color: string) =>
    WAVE.map((height, n) => (
      <rect
        // biome-ignore lint/suspicious/noArrayIndexKey: a bar is known by its place
        key={n}
        x={x + 5 * n}
        y={sign < 0 ? y - height : y}
        width={3}
        height={height}
        fill={`var(--chakra-colors-${color})`}
      />
    ));
  return (
    <svg
      viewBox="0 0 220 110"
      width={220}
      height={110}
      role="img"
      aria-label="Two mono files become one stereo file"
    >
      {bars(0, 40, -1, "left")}
      {bars(0, 70, 1, "right")}
      <path
        d="M76 55 H128 M120 49 L128 55 L120 61"
        stroke="var(--chakra-colors-fg-quiet)"
        fill="none"
        strokeWidth={2}
      />
      {bars(148, 54, -1, "left")}
      {bars(148, 56, 1, "right")}
    </svg>
  );
}
