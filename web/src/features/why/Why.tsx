/** Short pages that show, with pictures and sound, why things are as they are. */
import { Box, Flex } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { useParams } from "react-router";
import { PageHeading } from "../../shared/PageHeading";
import { PageList } from "../../shared/PageList";
import { Centre } from "./Centre";
import { MidSide } from "./MidSide";
import { Polarity } from "./Polarity";
import { Summing } from "./Summing";

const PAGES: readonly { id: string; title: string; question: string; page: () => ReactNode }[] = [
  {
    id: "polarity",
    title: "Polarity and correlation",
    question: "Why do two waves add up to silence?",
    page: Polarity,
  },
  { id: "mid-side", title: "Mid and side", question: "What are mid and side?", page: MidSide },
  {
    id: "centre",
    title: "Removing the centre",
    question: "How can a voice be removed from a mix?",
    page: Centre,
  },
  { id: "summing", title: "Mono summing", question: "How loud is a mono sum?", page: Summing },
];

export function Why() {
  const { page: id } = useParams();
  const chosen = PAGES.find((page) => page.id === id) ?? PAGES[0];
  if (!chosen) return null;
  const Page = chosen.page;
  return (
    <Flex maxW="1000px" mx="auto" px={6} py={6} gap={12} align="start">
      <Box as="nav" aria-label="Pages" w="210px" flexShrink={0}>
        <PageList to="/why" pages={PAGES} open={chosen.id} />
      </Box>
      <Box flex={1} minW={0}>
        <PageHeading key={chosen.id} as="h1" title={chosen.title} size="page" mb={4}>
          {chosen.question}
        </PageHeading>
        <Page key={`${chosen.id} page`} />
      </Box>
    </Flex>
  );
}
