/** What the server tells by itself, and what that makes out of date. */
import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { createStore } from "zustand/vanilla";
import { access, type Delivery } from "../api/client";
import { refetch } from "../api/queries";
import { type Message, type ServerEvent, stream } from "./eventStream";
import { openWorksheets } from "./useWorksheet";

const LOOK_EVERY = 250; // milliseconds

type Told = {
  job: string;
  head?: string;
  delivery: string;
  state: Delivery["state"] | "deleted";
} & Pick<Delivery, "progress" | "files_done" | "files" | "seconds_left">;

/** The delivery that has ended last: done, failed or stopped. */
export const endedDelivery = createStore<{ last: Pick<Told, "job" | "delivery" | "state" | "files"> | null }>(
  () => ({
    last: null,
  }),
);

/** Whether the server answers. */
export const connection = createStore<{ lost: boolean }>(() => ({ lost: false }));

/**
 * Listen to the server. Windows share one stream, held by a worker: a browser opens only six connections to a host, and
 * six streams would leave none for anything else.
 */
function subscribe(react: (message: Message) => void): () => void {
  if (!("SharedWorker" in window)) return stream(react);
  const worker = new SharedWorker(new URL("./events.worker.ts", import.meta.url), { type: "module" });
  worker.port.onmessage = (event: MessageEvent<Message>) => react(event.data);
  const leave = () => worker.port.postMessage("leave");
  const comeBack = (event: PageTransitionEvent) => event.persisted && worker.port.postMessage("join");
  window.addEventListener("pagehide", leave);
  window.addEventListener("pageshow", comeBack);
  return () => {
    window.removeEventListener("pagehide", leave);
    window.removeEventListener("pageshow", comeBack);
    leave();
    worker.port.close();
  };
}

/** One event stream for the whole page keeps every view true, whichever window made the change. */
export function useServerEvents() {
  const queries = useQueryClient();
  useEffect(() => {
    const react = reactions(queries);
    return subscribe(({ kind, data }) => {
      if (kind === "open" || kind === "lost") connection.setState({ lost: kind === "lost" });
      else react[kind](data as Told);
    });
  }, [queries]);
}

function reactions(queries: QueryClient): Record<ServerEvent, (told: Told) => unknown> {
  let connected = false;
  const lists = throttled((job: string) => refetch(queries, ["revisions", job], ["jobs"]));
  const levels = throttled((job: string) => refetch(queries, ["planned", job]));
  const look = (job: string, head?: string) => {
    for (const worksheet of openWorksheets()) if (worksheet.id === job) worksheet.changed(head);
    lists(job);
  };
  return {
    hello: () => {
      // After a lost connection nobody knows what was missed. What never changes is not asked for again.
      if (connected) {
        for (const worksheet of openWorksheets()) worksheet.changed();
        refetch(
          queries,
          ["jobs"],
          ["recipes"],
          ["revisions"],
          ["deliveries"],
          ["unfinished"],
          ["source"],
          ["planned"],
        );
      }
      connected = true;
    },
    // A job that was renamed or deleted may be on the page.
    "jobs-changed": ({ job }) => {
      for (const worksheet of openWorksheets()) if (worksheet.id === job) worksheet.changed();
      refetch(queries, ["jobs"]);
    },
    "job-changed": ({ job, head }) => look(job, head),
    "signed-out": () => access.setState({ asked: true }),
    "recipes-changed": () => refetch(queries, ["recipes"]),
    measured: ({ job }) => {
      look(job);
      levels(job);
    },
    delivery: (told) => {
      const { job, delivery, state, progress, files_done, files, seconds_left } = told;
      if (state !== "writing") {
        refetch(queries, ["deliveries", job], ["delivery-folder"]);
        look(job);
        if (state !== "waiting" && state !== "deleted")
          endedDelivery.setState({ last: { job, delivery, state, files } });
        return;
      }
      queries.setQueryData<Delivery[]>(["deliveries", job], (old) =>
        old?.map((one) =>
          one.id === delivery ? { ...one, state, progress, files_done, files, seconds_left } : one,
        ),
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
