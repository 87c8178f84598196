/** The name of a file or clip on one line. */
import { Box, Flex, VisuallyHidden } from "@chakra-ui/react";

const SHORT = 20;
const TAIL = 10;

/** Where it doesn't fit it is shortened before its end, which tells names apart that begin alike. */
export function Name({ children: name }: { children: string }) {
  if (name.length <= SHORT)
    return (
      <Box as="span" display="block" minW={0} truncate>
        {name}
      </Box>
    );
  return (
    <Flex as="span" minW={0} title={name} position="relative">
      <VisuallyHidden>{name}</VisuallyHidden>
      <Box as="span" aria-hidden minW={0} truncate whiteSpace="pre">
        {name.slice(0, -TAIL)}
      </Box>
      <Box as="span" aria-hidden flexShrink={0} maxW="full" overflow="hidden" whiteSpace="pre">
        {name.slice(-TAIL)}
      </Box>
    </Flex>
  );
}
