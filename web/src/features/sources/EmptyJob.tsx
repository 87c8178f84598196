/** A job without files: one place to drop them, and what will happen then. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useRef } from "react";
import { PrimaryButton, SecondaryButton } from "../../shared/parts";
import { Choosers } from "./Choosers";
import type { DroppedFile } from "./uploadStore";

const STEPS = [
  "The files are copied; the originals are never changed.",
  "Each is analysed as it arrives: what it is, what is wrong with it, and which belong together.",
  "Suggestions stand beside the files, and above the worksheet. Press one, or T to add a turn yourself.",
];

export function EmptyJob({ onFiles }: { onFiles: (files: DroppedFile[]) => void }) {
  const files = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);
  return (
    <Flex flex={1} p={6} minH="24rem">
      <Flex
        direction="column"
        align="center"
        justify="center"
        flex={1}
        layerStyle="dropHere"
        p={6}
        textAlign="center"
      >
        <Text textStyle="part" as="h2" mb={1}>
          Drop files or folders here
        </Text>
        <Flex gap={2} my={4}>
          <PrimaryButton onClick={() => files.current?.click()}>Choose files</PrimaryButton>
          <SecondaryButton size="sm" onClick={() => folder.current?.click()}>
            Choose folder
          </SecondaryButton>
        </Flex>
        <Box layerStyle="quiet" as="ol" maxW="34rem" textAlign="left" listStyleType="decimal" pl={6}>
          {STEPS.map((step) => (
            <li key={step}>{step}</li>
          ))}
        </Box>
        <Choosers files={files} folder={folder} onFiles={onFiles} />
      </Flex>
    </Flex>
  );
}
