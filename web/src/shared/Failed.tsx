/** What could not be fetched, with the way to try again. */
import { Flex, Text } from "@chakra-ui/react";
import { QuietButton } from "./parts";

export function Failed({
  what = "This could not be loaded.",
  onRetry,
}: {
  what?: string;
  onRetry: () => void;
}) {
  return (
    <Flex align="center" gap={2} color="fg.quiet" role="alert">
      <Text>{what}</Text>
      <QuietButton onClick={onRetry} borderWidth={1} borderColor="line" position="relative" zIndex={1}>
        Try again
      </QuietButton>
    </Flex>
  );
}
