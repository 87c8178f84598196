/** The listening session of a job, for the components that show and move it. */
import { createContext, type ReactNode, useContext, useDeferredValue, useEffect, useState } from "react";
import { useStore } from "zustand";
import type { ListenState } from "./listenState";
import type { SessionDeps } from "./session";
import { ListenSession } from "./session";

const Session = createContext<ListenSession | null>(null);

/** Holds a session as long as it is on the page. */
export function useNewSession(outside: SessionDeps): ListenSession {
  const [session] = useState(() => new ListenSession(outside));
  useEffect(() => () => session.close(), [session]);
  return session;
}

export function ListenProvider({ session, children }: { session: ListenSession; children: ReactNode }) {
  return <Session value={session}>{children}</Session>;
}

export function useSession(): ListenSession {
  const session = useContext(Session);
  if (!session) throw new Error("Outside a ListenProvider");
  return session;
}

/** A part of what is looked at and listened to. */
export const useListen = <T,>(part: (state: ListenState) => T): T => useStore(useSession().store, part);

/** What is drawn. Whoever goes through a list sees where they are first, and its pictures after that. */
export const useDrawn = () => useDeferredValue(useListen((state) => state.drawn));

/** Call `draw` for each frame while something plays, and once for each change; true asks for one more. */
export function useFrames(draw: (now: number) => boolean) {
  const session = useSession();
  useEffect(() => {
    let request = 0;
    const frame = (now: number) => {
      request = 0;
      if (draw(now) || session.store.getState().playing) ask();
    };
    const ask = () => {
      if (!request) request = requestAnimationFrame(frame);
    };
    ask();
    const stops = [session.player.subscribe(ask), session.store.subscribe(ask)];
    return () => {
      cancelAnimationFrame(request);
      for (const stop of stops) stop();
    };
  }, [draw, session]);
}
