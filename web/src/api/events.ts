/** What the server tells by itself, and what that makes stale. */
import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import type { Delivery } from "./client";
import { jobKey, renew } from "./queries";

const LOOK_EVERY = 250; // milliseconds

type Told = { job: string; delivery: string; state: Delivery["state"] | "deleted"; progress: number };

/** One event stream for the whole page keeps every view true, whichever window made the change. */
export function useServerEvents() {
  const queries = useQueryClient();
  useEffect(() => {
    const stream = new EventSource("/api/events");
    const on = (kind: string, react: (told: Told) => void) =>
      stream.addEventListener(kind, (event) =>
        react(JSON.parse((event as MessageEvent<string>).data) as Told),
      );
    // After a lost connection nobody knows what was missed.
    on("hello", () => renew(queries, []));
    on("jobs-changed", () => renew(queries, ["jobs"]));
    // Hundreds of files arrive and are measured one by one: a job is looked at again only so often, and each look is
    // finished before the next.
    const more = new Map<string, boolean>();
    const soon = async (job: string) => {
      const looking = more.has(job);
      more.set(job, true);
      if (looking) return;
      while (more.get(job)) {
        await new Promise((resolve) => setTimeout(resolve, LOOK_EVERY));
        more.set(job, false);
        await renew(queries, jobKey(job), ["revisions", job], ["jobs"]);
      }
      more.delete(job);
    };
    on("job-changed", (told) => soon(told.job));
    on("measured", (told) => soon(told.job));
    on("delivery", (told) => deliveryTold(queries, told));
    return () => stream.close();
  }, [queries]);
}

function deliveryTold(queries: QueryClient, told: Told) {
  if (told.state !== "writing") {
    renew(queries, ["deliveries", told.job], jobKey(told.job));
    return;
  }
  const { state, progress } = told;
  queries.setQueryData<Delivery[]>(["deliveries", told.job], (old) =>
    old?.map((delivery) => (delivery.id === told.delivery ? { ...delivery, state, progress } : delivery)),
  );
}
