/** Keys of the page: each key its command, unless it belongs to what has the focus. */
import { useEffect } from "react";
import { isSingleKey, keyName, ownsKey, singleKeys } from "../shared/keys";
import type { Command } from "./command";
import { commands } from "./commands";
import type { WorkbenchStore } from "./store";

const bound = new Map<string, Command>(
  commands.flatMap(([, command]) => (command.run ? command.keys.map((key) => [key, command] as const) : [])),
);

/** Run what a key stands for; what is not ours goes its way. */
export function dispatch(event: KeyboardEvent, bench: WorkbenchStore) {
  const name = keyName(event);
  const command = bound.get(name);
  if (!command?.run || event.defaultPrevented || ownsKey(event.target, name)) return;
  if (isSingleKey(name) && !singleKeys.getState().on) return;
  if (!command.everywhere && bench.state.screen !== "worksheet") return;
  if (document.querySelector("[role=dialog], [role=alertdialog], [role=menu]:not([hidden])")) return;
  if (command.when && !command.when(bench)) return;
  event.preventDefault();
  if (!event.repeat || command.repeats) command.run(bench);
}

export function useKeys(bench: WorkbenchStore) {
  useEffect(() => {
    const listen = (event: KeyboardEvent) => dispatch(event, bench);
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, [bench]);
}
