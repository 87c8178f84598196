/** Every key, on one sheet: what is bound on the page. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useStore } from "zustand";
import { KeyCap } from "../shared/chips";
import { Toggle } from "../shared/fields";
import { GuideLink } from "../shared/GuideLink";
import { CTRL, letterKeys, type Section, type Shortcut, setLetterKeys, useBoundKeys } from "../shared/keys";
import { Sheet } from "../shared/Sheet";

export function KeySheet({ open, onClose }: { open: boolean; onClose: () => void }) {
  const sections = useBoundKeys();
  const letters = useStore(letterKeys, (state) => state.on);
  return (
    <Sheet title="Keyboard shortcuts" open={open} onClose={onClose}>
      <Box mb={4}>
        <Text mb={3}>
          How do I …? <GuideLink page="">Open the guide</GuideLink>, a page for each task.
        </Text>
        <Toggle label="Single-letter shortcuts" on={letters} onChange={setLetterKeys} />
      </Box>
      <Box columns={2} columnGap={8}>
        {joined(sections).map(({ title, shortcuts }) => (
          <Box key={title} breakInside="avoid" mb={5}>
            <Text fontWeight={600} mb={2}>
              {title}
            </Text>
            {shortcuts.map((shortcut) => (
              <Flex key={shortcut.text} gap={3} py={0.5} align="baseline">
                <Box w={28} flexShrink={0} whiteSpace="nowrap">
                  <KeyCap>{written(shortcut)}</KeyCap>
                </Box>
                <Text color="fg.quiet">{shortcut.text}</Text>
              </Flex>
            ))}
          </Box>
        ))}
      </Box>
    </Sheet>
  );
}

/** Sections of one title as one, without what is kept off the sheet. */
function joined(sections: readonly Section[]): Section[] {
  const titles = [...new Set(sections.map(({ title }) => title))];
  return titles.map((title) => ({
    title,
    shortcuts: sections
      .filter((section) => section.title === title)
      .flatMap(({ shortcuts }) => shortcuts.filter(({ shown }) => shown !== "")),
  }));
}

const NAMES: Record<string, string> = {
  Ctrl: CTRL,
  Escape: "Esc",
  ArrowLeft: "←",
  ArrowRight: "→",
  ArrowUp: "↑",
  ArrowDown: "↓",
};
const written = ({ keys, shown }: Shortcut) =>
  shown ??
  keys
    .map((key) =>
      key
        .split("+")
        .map((part) => NAMES[part] ?? (/^[a-z]$/.test(part) && key.includes("+") ? part.toUpperCase() : part))
        .join(" "),
    )
    .join("  ");
