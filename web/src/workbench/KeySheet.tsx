/** Every key, on one sheet, from the table of commands. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useStore } from "zustand";
import { KeyCap } from "../shared/chips";
import { Toggle } from "../shared/fields";
import { GuideLink } from "../shared/GuideLink";
import { setSingleKeys, singleKeys } from "../shared/keys";
import { Sheet } from "../shared/Sheet";
import { SECTIONS } from "./command";
import { commands, keysOf } from "./commands";

export function KeySheet({ open, onClose }: { open: boolean; onClose: () => void }) {
  const single = useStore(singleKeys, (state) => state.on);
  const withKeys = commands.filter(([, { keys }]) => keys.length > 0);
  return (
    <Sheet title="Keyboard shortcuts" open={open} onClose={onClose}>
      <Box mb={4}>
        <Text mb={3}>
          Need more? <GuideLink page="">Open the guide</GuideLink>, a page for each task.
        </Text>
        <Toggle
          label="Single-key shortcuts: letters, digits and signs"
          on={single}
          onChange={setSingleKeys}
        />
      </Box>
      <Box columns={2} columnGap={6}>
        {SECTIONS.map((title) => (
          <Box key={title} breakInside="avoid" mb={6}>
            <Text textStyle="strong" mb={2}>
              {title}
            </Text>
            {withKeys
              .filter(([, { section }]) => section === title)
              .map(([id, command]) => (
                <Flex key={id} gap={3} py={1} align="baseline">
                  <Box w={28} flexShrink={0} whiteSpace="nowrap">
                    <KeyCap>{keysOf(id)}</KeyCap>
                  </Box>
                  <Text layerStyle="quiet">{command.title}</Text>
                </Flex>
              ))}
          </Box>
        ))}
      </Box>
    </Sheet>
  );
}
