/** What the server tells by itself, and what that makes out of date. */
import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { createStore } from "zustand/vanilla";
import type { Delivery } from "./client";
import { renew } from "./queries";
import { openWorksheets } from "./useWorksheet";

const LOOK_EVERY = 250; // milliseconds
const RECONNECT_AFTER = 2_000;

type Told = {
  job: string;
  head?: string;
  delivery: string;
  state: Delivery["state"] | "deleted";
  progress: number;
};
const KINDS = ["hello", "jobs-changed", "job-changed", "measured", "delivery"] as const;
type Kind = (typeof KINDS)[number];

/** Whether the server answers. */
export const connection = createStore<{ lost: boolean }>(() => ({ lost: false }));

/** One event stream for the whole page keeps every view true, whichever window made the change. */
export function useServerEvents() {
  const queries = useQueryClient();
  useEffect(() => {
    const react = reactions(queries);
    return listen((kind, told) => react[kind](told));
  }, [queries]);
}

/** Listen to the stream, again and again where it breaks; returns how to stop. */
function listen(react: (kind: Kind, told: Told) => void): () => void {
  let stream: EventSource;
  let retry: ReturnType<typeof setTimeout> | undefined;
  const open = () => {
    stream = new EventSource("/api/events");
    for (const kind of KINDS)
      stream.addEventListener(kind, (event) =>
        react(kind, JSON.parse((event as MessageEvent<string>).data) as Told),
      );
    stream.onopen = () => connection.setState({ lost: false });
    stream.onerror = () => {
      connection.setState({ lost: true });
      // A stream that was answered with an error is closed for good: it is opened anew.
      if (stream.readyState !== EventSource.CLOSED) return;
      clearTimeout(retry);
      retry = setTimeout(open, RECONNECT_AFTER);
    };
  };
  open();
  return () => {
    clearTimeout(retry);
    stream.close();
  };
}

function reactions(queries: QueryClient): Record<Kind, (told: Told) => void> {
  let connected = false;
  const lists = throttled((job: string) => renew(queries, ["revisions", job], ["jobs"]));
  const look = (job: string, head?: string) => {
    for (const worksheet of openWorksheets()) if (worksheet.id === job) worksheet.changed(head);
    lists(job);
  };
  return {
    hello: () => {
      // After a lost connection nobody knows what was missed. What never changes is not asked for again.
      if (connected) {
        for (const worksheet of openWorksheets()) worksheet.changed();
        renew(queries, ["jobs"], ["revisions"], ["deliveries"], ["unfinished"], ["source"], ["planned"]);
      }
      connected = true;
    },
    "jobs-changed": () => renew(queries, ["jobs"]),
    "job-changed": ({ job, head }) => look(job, head),
    measured: ({ job }) => look(job),
    delivery: (told) => {
      const { job, delivery, state, progress } = told;
      if (state !== "writing") {
        renew(queries, ["deliveries", job]);
        look(job);
        return;
      }
      queries.setQueryData<Delivery[]>(["deliveries", job], (old) =>
        old?.map((one) => (one.id === delivery ? { ...one, state, progress } : one)),
      );
    },
  };
}

/** Do something for a job only so often, each time after the one before has ended. */
function throttled(act: (job: string) => Promise<void>): (job: string) => void {
  const again = new Map<string, boolean>();
  return async (job) => {
    const running = again.has(job);
    again.set(job, true);
    if (running) return;
    while (again.get(job)) {
      await new Promise((resolve) => setTimeout(resolve, LOOK_EVERY));
      again.set(job, false);
      await act(job);
    }
    again.delete(job);
  };
}
