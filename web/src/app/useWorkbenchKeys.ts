/** The keys of the workbench. */
import { listenShortcuts, useSession } from "../features/listen";
import { CTRL, type Shortcut, useShortcuts } from "../shared/keys";

/** Keys of the lists themselves. */
const LIST_KEYS: readonly Shortcut[] = [
  { keys: ["ArrowUp", "ArrowDown"], text: "select a row", shown: "↑ ↓" },
  { keys: ["Shift+ArrowUp"], text: "extend the selection", shown: "Shift ↑ ↓" },
  { keys: ["Home", "End"], text: "first row, last row", shown: "Home End" },
  { keys: ["Alt"], text: "go to the row of that name", shown: "Alt + letters" },
  { keys: ["Ctrl+a"], text: "select all", shown: `${CTRL} A` },
  { keys: ["Enter"], text: "apply the suggested turn" },
  { keys: ["Delete"], text: "remove the turn, archive the files" },
];

type Keys = {
  onAdd: () => void;
  onFilter: () => void;
  onRemove: () => void;
  onInsert: (side: "before" | "after") => void;
  onBypass: () => void;
};

export function useWorkbenchKeys({ onAdd, onFilter, onRemove, onInsert, onBypass }: Keys) {
  useShortcuts("Everywhere", [
    { keys: ["t"], text: "add a turn: type its name", run: onAdd },
    { keys: ["/"], text: "filter the sources", run: onFilter },
    {
      keys: ["Delete"],
      text: "remove the turn, archive the files",
      shown: "",
      // With the focus on a setting or in another list, something else is meant.
      run: ({ target }) => target === document.body && onRemove(),
    },
  ]);
  useShortcuts("Worksheet", [
    { keys: ["i"], text: "insert a turn before the line", run: () => onInsert("before") },
    {
      keys: ["Shift+i"],
      text: "insert a turn after the line",
      shown: "Shift I",
      run: () => onInsert("after"),
    },
    { keys: ["b"], text: "bypass or enable the line", run: onBypass },
    { keys: ["Alt+ArrowUp", "Alt+ArrowDown"], text: "move the line", shown: "Alt ↑ ↓" },
  ]);
  const session = useSession();
  useShortcuts("Lists", LIST_KEYS);
  useShortcuts("View and listen", listenShortcuts(session));
}
