/** Names and keys within text. */
import { Box } from "@chakra-ui/react";
import type { ReactNode } from "react";

/** The name of a clip. */
export function Chip({ children, title }: { children: ReactNode; title?: string }) {
  return (
    <Box
      as="span"
      title={title}
      px={2}
      py={0.5}
      bg="raised.high"
      borderRadius="md"
      truncate
      minW={0}
      display="inline-block"
    >
      {children}
    </Box>
  );
}

export function KeyCap({ children }: { children: ReactNode }) {
  return (
    <Box
      as="kbd"
      px={1.5}
      py={0.5}
      bg="raised.high"
      borderRadius="sm"
      fontSize="xs"
      fontFamily="mono"
      color="fg.quiet"
    >
      {children}
    </Box>
  );
}
