/** How do I …? The tasks of the job on half a page each, searchable, without a network. */
import { Box, Flex, Input, Text } from "@chakra-ui/react";
import { Marked } from "marked";
import { useMemo, useState } from "react";
import { useParams } from "react-router";
import { PageHeading } from "../../shared/PageHeading";
import { PageList } from "../../shared/PageList";
import { matching, PAGES, pictureAt } from "./pages";

const marked = new Marked({
  renderer: {
    // The title is the page's own heading.
    heading: ({ depth, text }) => (depth === 1 ? "" : `<h2>${text}</h2>`),
    image: ({ href, text }) => `<img src="${pictureAt(href)}" alt="${text}">`,
  },
});

export function Guide() {
  const { page: id } = useParams();
  const [typed, setTyped] = useState("");
  const matches = matching(typed);
  const chosen = PAGES.find((page) => page.id === id) ?? PAGES[0];
  const html = useMemo(() => marked.parse(chosen?.text ?? "", { async: false }), [chosen]);
  if (!chosen) return null;
  return (
    <Flex maxW="1000px" mx="auto" px={6} py={6} gap={12} align="start">
      <Box as="nav" aria-label="How do I …?" w="250px" flexShrink={0}>
        <Input
          size="sm"
          mb={3}
          aria-label="Search the guide"
          placeholder="Search the guide"
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
        />
        <PageList to="/guide" pages={matches} open={chosen.id} />
        {matches.length === 0 && (
          <Text layerStyle="quiet" px={3}>
            Nothing about “{typed.trim()}”.
          </Text>
        )}
      </Box>
      <Box flex={1} minW={0}>
        <PageHeading key={chosen.id} as="h1" title={chosen.title} size="page" mb={2}>
          {chosen.title}
        </PageHeading>
        {/* biome-ignore lint/security/noDangerouslySetInnerHtml: our own pages, built with the application. */}
        <Box layerStyle="guide" dangerouslySetInnerHTML={{ __html: html }} />
      </Box>
    </Flex>
  );
}
