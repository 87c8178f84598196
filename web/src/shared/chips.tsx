/** Names and keys within text. */
import { Box } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { Name } from "./Name";

/** The name of a clip, or what is added to it: an ending keeps its room where others give way. */
export function Chip({ name, title }: { name: string; title?: string }) {
  return (
    <Box
      as="span"
      title={title}
      layerStyle="chip"
      minW={0}
      flexShrink={name.length <= 8 ? 0 : 1}
      display="inline-block"
    >
      <Name>{name}</Name>
    </Box>
  );
}

export function KeyCap({ children }: { children: ReactNode }) {
  return (
    <Box as="kbd" layerStyle="key">
      {children}
    </Box>
  );
}
