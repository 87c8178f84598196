/** Every key, on one sheet. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { KeyCap } from "../shared/parts";
import { Sheet } from "../shared/Sheet";

const KEYS: Record<string, [string, string][]> = {
  Everywhere: [
    ["Ctrl Z", "undo"],
    ["Shift Ctrl Z", "redo"],
    ["t", "add a turn: type its name"],
    ["/", "filter the sources"],
    ["d", "deliver"],
    ["?", "this sheet"],
  ],
  "Look and listen": [
    ["Space", "play and pause"],
    ["q", "In or Out"],
    ["1 – 5", "stereo, left, right, mono, difference"],
    ["x", "In less Out"],
    ["m", "Out as loud as In"],
    ["v", "waveform, spectrum, bands"],
    ["[  ]", "start and end of the range here"],
    ["Esc", "no range"],
    ["l", "loop the range"],
    ["+  −", "closer, farther"],
    ["0  r", "show all, show the range"],
    ["← →", "move the playhead"],
    ["Shift ← →", "move the picture"],
    ["Shift ↑ ↓", "enlarge the height"],
    ["Home End", "to the start, to the end"],
  ],
  Lists: [
    ["↑ ↓", "choose a row"],
    ["Shift ↑ ↓", "choose several"],
    ["Ctrl A", "choose all"],
    ["Enter", "take the turn that a file offers"],
    ["Delete", "take a turn out, retire files"],
  ],
};

export function KeySheet({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Sheet title="Keys" open={open} onClose={onClose}>
      <Flex gap={8} wrap="wrap">
        {Object.entries(KEYS).map(([title, keys]) => (
          <Box key={title} flex="1 1 240px">
            <Text fontWeight={600} mb={2}>
              {title}
            </Text>
            {keys.map(([key, meaning]) => (
              <Flex key={key} gap={3} py={1} align="baseline">
                <Box w={28} flexShrink={0} whiteSpace="nowrap">
                  <KeyCap>{key}</KeyCap>
                </Box>
                <Text color="fg.quiet">{meaning}</Text>
              </Flex>
            ))}
          </Box>
        ))}
      </Flex>
    </Sheet>
  );
}
