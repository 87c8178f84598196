/** What is fetched, what changes it, and what an event makes stale. */
import { type QueryClient, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { client, type Delivery, type Depth, type Job, Problem, type Turn, unwrap } from "./client";

const jobKey = (id: string) => ["job", id] as const;

export const useJobs = () => useQuery({ queryKey: ["jobs"], queryFn: () => unwrap(client.GET("/api/jobs")) });

export const useJob = (id: string) =>
  useQuery({
    queryKey: jobKey(id),
    queryFn: () => unwrap(client.GET("/api/jobs/{job_id}", { params: { path: { job_id: id } } })),
  });

export const useRevisions = (id: string) =>
  useQuery({
    queryKey: ["revisions", id],
    queryFn: () => unwrap(client.GET("/api/jobs/{job_id}/revisions", { params: { path: { job_id: id } } })),
  });

export const useDeliveries = (id: string) =>
  useQuery({
    queryKey: ["deliveries", id],
    queryFn: () => unwrap(client.GET("/api/jobs/{job_id}/deliveries", { params: { path: { job_id: id } } })),
  });

export const usePlannedFiles = (job: Job, refs: string[], depth: Depth) =>
  useQuery({
    queryKey: ["planned", job.id, job.head, refs, depth],
    enabled: refs.length > 0,
    queryFn: () =>
      unwrap(
        client.POST("/api/jobs/{job_id}/deliveries/plan", {
          params: { path: { job_id: job.id } },
          body: { revision: job.head, refs, depth },
        }),
      ),
  });

export function useJobActions(id: string) {
  const queries = useQueryClient();
  const path = { job_id: id };
  const keep = (job: Job) => {
    queries.setQueryData(jobKey(id), job);
    queries.invalidateQueries({ queryKey: ["revisions", id] });
  };
  // Another window was faster: show what is there now, so that the change can be made once more.
  const onError = (error: Error) => {
    if (error instanceof Problem && error.code === "stale")
      queries.invalidateQueries({ queryKey: jobKey(id) });
  };
  const base = () => queries.getQueryData<Job>(jobKey(id))?.head ?? "";
  const changing = <T>(change: (given: T) => Promise<Job>) => ({
    mutationFn: change,
    onSuccess: keep,
    onError,
  });

  return {
    add: useMutation(
      changing((body: { turn: Turn; inputs: string[] }) =>
        unwrap(
          client.POST("/api/jobs/{job_id}/steps", { params: { path }, body: { ...body, base: base() } }),
        ),
      ),
    ),
    change: useMutation(
      changing(({ step, ...body }: { step: string; turn?: Turn; inputs?: string[]; names?: string[] }) =>
        unwrap(
          client.PATCH("/api/jobs/{job_id}/steps/{step_id}", {
            params: { path: { ...path, step_id: step } },
            body: { ...body, base: base() },
          }),
        ),
      ),
    ),
    remove: useMutation(
      changing((step: string) =>
        unwrap(
          client.DELETE("/api/jobs/{job_id}/steps/{step_id}", {
            params: { path: { ...path, step_id: step }, query: { base: base() } },
          }),
        ),
      ),
    ),
    undo: useMutation(changing(() => unwrap(client.POST("/api/jobs/{job_id}/undo", { params: { path } })))),
    redo: useMutation(changing(() => unwrap(client.POST("/api/jobs/{job_id}/redo", { params: { path } })))),
    restore: useMutation(
      changing((revision: string) =>
        unwrap(
          client.POST("/api/jobs/{job_id}/revisions/{revision_id}/restore", {
            params: { path: { ...path, revision_id: revision } },
          }),
        ),
      ),
    ),
    nameRevision: useMutation({
      mutationFn: ({ revision, name }: { revision: string; name: string | null }) =>
        unwrap(
          client.PATCH("/api/jobs/{job_id}/revisions/{revision_id}", {
            params: { path: { ...path, revision_id: revision } },
            body: { name },
          }),
        ),
      onSuccess: () => queries.invalidateQueries({ queryKey: ["revisions", id] }),
    }),
    deliver: useMutation({
      mutationFn: (body: { refs: string[]; depth: Depth }) =>
        unwrap(
          client.POST("/api/jobs/{job_id}/deliveries", {
            params: { path },
            body: { ...body, revision: base() },
          }),
        ),
      onSuccess: () => queries.invalidateQueries({ queryKey: ["deliveries", id] }),
    }),
  };
}
export type JobActions = ReturnType<typeof useJobActions>;

export function useJobsActions() {
  const queries = useQueryClient();
  const refresh = () => queries.invalidateQueries({ queryKey: ["jobs"] });
  return {
    create: useMutation({
      mutationFn: (name: string) => unwrap(client.POST("/api/jobs", { body: { name } })),
      onSuccess: refresh,
    }),
    remove: useMutation({
      mutationFn: (id: string) =>
        unwrap(client.DELETE("/api/jobs/{job_id}", { params: { path: { job_id: id } } })),
      onSuccess: refresh,
    }),
  };
}

export const stopDelivery = (id: string) =>
  unwrap(client.POST("/api/deliveries/{delivery_id}/stop", { params: { path: { delivery_id: id } } }));

export const deleteDelivery = (id: string) =>
  unwrap(client.DELETE("/api/deliveries/{delivery_id}", { params: { path: { delivery_id: id } } }));

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
    on("hello", () => queries.invalidateQueries());
    on("jobs-changed", () => queries.invalidateQueries({ queryKey: ["jobs"] }));
    on("job-changed", (told) => {
      queries.invalidateQueries({ queryKey: jobKey(told.job) });
      queries.invalidateQueries({ queryKey: ["revisions", told.job] });
      queries.invalidateQueries({ queryKey: ["jobs"] });
    });
    on("delivery", (told) => deliveryTold(queries, told));
    return () => stream.close();
  }, [queries]);
}

function deliveryTold(queries: QueryClient, told: Told) {
  if (told.state !== "writing") {
    queries.invalidateQueries({ queryKey: ["deliveries", told.job] });
    queries.invalidateQueries({ queryKey: jobKey(told.job) });
    return;
  }
  const { state, progress } = told;
  queries.setQueryData<Delivery[]>(["deliveries", told.job], (old) =>
    old?.map((delivery) => (delivery.id === told.delivery ? { ...delivery, state, progress } : delivery)),
  );
}
