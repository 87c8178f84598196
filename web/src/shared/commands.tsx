/** How parts of a page learn the keys of a command, which is bound elsewhere: for tips, menus and texts. */
import { createContext, useContext } from "react";
import { KeyCap } from "./chips";

type WriteKeys = (command: string) => string;

/** The keys of a command, by its id, as they are written; none where no page has bound them. */
export const KeysOf = createContext<WriteKeys>(() => "");
export const useKeysOf = () => useContext(KeysOf);

/** A label with the keys behind it, as tips have it: "Play (Space)". */
export function useLabel() {
  const keysOf = useKeysOf();
  return (label: string, command: string) => {
    const keys = keysOf(command);
    return keys ? `${label} (${keys})` : label;
  };
}

/** The keys of a command, as a cap; nothing where it has none. */
export function Keys({ of }: { of: string }) {
  const keys = useKeysOf()(of);
  return keys ? <KeyCap>{keys}</KeyCap> : null;
}
