/** One thing that is chosen about a delivery: what it is, and beside it how. */
import { Flex, Text } from "@chakra-ui/react";
import type { ReactNode } from "react";

export function Choice({ label, children }: { label: string; children: ReactNode }) {
  return (
    <Flex gap={3} align="center" mb={3} minH={8}>
      <Text color="fg.quiet" flexShrink={0} w="7rem">
        {label}
      </Text>
      {children}
    </Flex>
  );
}
