/** What every lane has: which of the two it is, its name, and beside it what its picture says. */
import { Box, Flex, Text } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { Name } from "../../shared/Name";
import { useListen } from "./context";
import { type LaneClips, laneName } from "./lane";

/** Pixels left of a lane's picture, for its letters. */
export const GUTTER = 28;

/** Whether a lane is the one that is heard. */
export const useIsHeard = (label: LaneClips["label"]) =>
  useListen((state) => (state.shown.output && state.monitor ? "Out" : "In") === label);

type Props = {
  lane: LaneClips;
  picture: string;
  /** No letters stand left of the picture. */
  flush?: boolean;
  beside?: ReactNode;
  children: ReactNode;
};

export function LaneFrame({ lane, picture, flush = false, beside, children }: Props) {
  const heard = useIsHeard(lane.label);
  const [input, output] = useListen((state) => state.shown.labels);
  return (
    <Flex
      direction="column"
      flex={1}
      minH={0}
      minW={0}
      gap={1}
      data-testid={`${picture}-${lane.label.toLowerCase()}`}
    >
      <Flex gap={2} align="baseline" minW={0} ml={flush ? 0 : `-${GUTTER}px`}>
        <Text textStyle="strong" minW={7} flexShrink={0} layerStyle={heard ? "plain" : "quiet"}>
          {lane.label === "In" ? input : output}
        </Text>
        <Box minW="6rem">
          <Name>{laneName(lane)}</Name>
        </Box>
        {beside}
      </Flex>
      {children}
    </Flex>
  );
}

/** What is said in place of a picture that is not there. */
export function PictureState({ children }: { children: ReactNode }) {
  return (
    <Flex
      layerStyle="quiet"
      position="absolute"
      inset={0}
      align="center"
      justify="center"
      gap={2}
      role="status"
    >
      {children}
    </Flex>
  );
}
