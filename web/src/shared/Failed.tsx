/** What could not be fetched, with the way to try again. */
import { Flex, Text } from "@chakra-ui/react";
import { SecondaryButton } from "./parts";

export function Failed({
  what = "This could not be loaded.",
  onRetry,
}: {
  what?: string;
  onRetry: () => void;
}) {
  return (
    <Flex layerStyle="quiet" align="center" gap={2} role="alert">
      <Text>{what}</Text>
      <SecondaryButton onClick={onRetry} position="relative" zIndex={1}>
        Try again
      </SecondaryButton>
    </Flex>
  );
}
