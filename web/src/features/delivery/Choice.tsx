/** One thing that is chosen about a delivery: what it is, and beside it how. */
import { Flex, Text } from "@chakra-ui/react";
import type { ReactNode } from "react";

export function Choice({ label, children }: { label: string; children: ReactNode }) {
  return (
    <Flex columnGap={3} rowGap={1} align="center" mb={3} minH={8} wrap="wrap">
      <Text layerStyle="quiet" flexShrink={0} w={{ base: "full", md: "7rem" }}>
        {label}
      </Text>
      {children}
    </Flex>
  );
}
