/** Worksheets on the page, for React and for the stream of events. */
import { startTransition, useEffect, useState } from "react";
import { Worksheet, type WorksheetState } from "./worksheet";

const open = new Map<string, Worksheet>();

/** The worksheets that are on the page. */
export const openWorksheets = (): readonly Worksheet[] => [...open.values()];

/** The worksheet of a job, for as long as it is on the page; another job needs another component. */
export function useWorksheet(id: string, onProblem: (problem: unknown) => void): Worksheet {
  const [worksheet] = useState(() => new Worksheet(id, onProblem));
  useEffect(() => {
    open.set(id, worksheet);
    void worksheet.look();
    // Who leaves before the last change has arrived is asked.
    const ask = (event: BeforeUnloadEvent) => {
      if (worksheet.store.getState().changing) event.preventDefault();
    };
    window.addEventListener("beforeunload", ask);
    return () => {
      window.removeEventListener("beforeunload", ask);
      open.delete(id);
    };
  }, [id, worksheet]);
  return worksheet;
}

/** What a worksheet is. What the hand does is drawn at once; an answer lets what is heard go first. */
export function useWorksheetState({ store }: Worksheet): WorksheetState {
  const [state, setState] = useState(store.getState);
  useEffect(() => {
    const follow = (now: WorksheetState) =>
      now.byHand ? setState(now) : startTransition(() => setState(now));
    follow(store.getState());
    return store.subscribe(follow);
  }, [store]);
  return state;
}
