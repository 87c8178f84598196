/** What a screen reader says of things that happen away from the focus: each once, the latest in place of the one before. */
import { VisuallyHidden } from "@chakra-ui/react";
import { useStore } from "zustand";
import { createStore } from "zustand/vanilla";

const said = createStore<{ text: string; count: number }>(() => ({ text: "", count: 0 }));

export const announce = (text: string) => {
  if (text) said.setState(({ count }) => ({ text, count: count + 1 }));
};

/** Stands on the page once. */
export function Announcer() {
  const { text, count } = useStore(said);
  return (
    <VisuallyHidden role="status" data-testid="announced">
      {/* Another element each time: the same text is said again. */}
      <span key={count}>{text}</span>
    </VisuallyHidden>
  );
}
