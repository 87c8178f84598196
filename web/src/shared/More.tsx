/** What is seldom needed, behind a button; open at once where something of it has been changed. */
import { Flex } from "@chakra-ui/react";
import { ChevronDown, ChevronUp } from "lucide-react";
import { type ReactNode, useState } from "react";
import { QuietButton } from "./parts";

export function More({ changed = false, children }: { changed?: boolean; children: ReactNode }) {
  const [wanted, setWanted] = useState<boolean | null>(null);
  const open = wanted ?? changed;
  const [Arrow, word] = open ? [ChevronUp, "Less"] : [ChevronDown, "More"];
  return (
    <>
      <QuietButton alignSelf="start" px={0} aria-expanded={open} onClick={() => setWanted(!open)}>
        {word} <Arrow />
      </QuietButton>
      {open && (
        <Flex direction="column" gap={3}>
          {children}
        </Flex>
      )}
    </>
  );
}
