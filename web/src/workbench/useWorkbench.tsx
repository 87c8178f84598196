/** The workbench on the page, and slices of it. */
import { createContext, startTransition, useCallback, useContext, useEffect, useMemo, useState } from "react";
import type { Command } from "./command";
import { COMMANDS, type CommandId } from "./commands";
import { selectedLines } from "./selection";
import type { WorkbenchState, WorkbenchStore } from "./store";

const Context = createContext<WorkbenchStore | null>(null);
export const WorkbenchProvider = Context;

export function useBench(): WorkbenchStore {
  const bench = useContext(Context);
  if (!bench) throw new Error("There is no workbench on this page");
  return bench;
}

/** A slice of the state. What the hand does is drawn at once; an answer lets what is heard go first. */
export function useWorkbench<T>(slice: (state: WorkbenchState) => T): T {
  const { store } = useBench();
  const [value, setValue] = useState(() => slice(store.getState()));
  useEffect(() => {
    const follow = (state: WorkbenchState) => {
      const next = () => slice(state);
      if (state.byHand) setValue(next);
      else startTransition(() => setValue(next));
    };
    follow(store.getState());
    return store.subscribe(follow);
  }, [store, slice]);
  return value;
}

/** Whether a command can be used now. */
export function useCanRun(id: CommandId): boolean {
  const bench = useBench();
  return useWorkbench(
    useCallback(() => {
      const { when }: Command = COMMANDS[id];
      return when ? when(bench) : true;
    }, [bench, id]),
  );
}

/** All selected lines, in the order of the worksheet. */
export function useSelectedLines(): string[] {
  const steps = useWorkbench((state) => state.job.steps);
  const line = useWorkbench((state) => state.line);
  const others = useWorkbench((state) => state.others);
  return useMemo(() => selectedLines(steps, { line, others, anchor: null }), [steps, line, others]);
}
