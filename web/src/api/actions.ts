/** What changes a job, and the list of jobs. */
import { useIsMutating, useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { client, type Depth, type Job, type NewStep, Problem, type Turn, unwrap } from "./client";
import { jobKey, renew } from "./queries";

export type StepChange = { turn?: Turn; inputs?: string[]; names?: string[] };

type Arrival = (job: Job) => Promise<void>;
const arrivals = new Map<string, Set<Arrival>>();
/** The longest that a page waits to be drawn for those who were told before. */
const HEAD_START = 100; // milliseconds

/** Be told what a job has become before the page is drawn anew, which waits a moment for it. */
export function useJobArrival(id: string, told: Arrival) {
  const latest = useRef(told);
  useEffect(() => {
    latest.current = told;
  });
  useEffect(() => {
    const tell: Arrival = (job) => latest.current(job);
    const all = arrivals.get(id) ?? new Set();
    arrivals.set(id, all.add(tell));
    return () => void all.delete(tell);
  }, [id]);
}

const changeKey = (id: string) => ["change", id] as const;

/** Whether a change of the worksheet is on its way: what is shown is about to be another. */
export const useIsChanging = (id: string) => useIsMutating({ mutationKey: changeKey(id) }) > 0;

export function useJobActions(id: string) {
  const queries = useQueryClient();
  const path = { job_id: id };
  const keep = async (job: Job) => {
    const ready = Promise.all([...(arrivals.get(id) ?? [])].map((tell) => tell(job)));
    await Promise.race([ready, new Promise((resolve) => setTimeout(resolve, HEAD_START))]);
    await queries.cancelQueries({ queryKey: jobKey(id) });
    queries.setQueryData(jobKey(id), job);
    renew(queries, ["revisions", id]);
  };
  // Another window was faster: show what is there now, so that the change can be made once more.
  const onError = (error: Error) => {
    if (error instanceof Problem && error.code === "stale") renew(queries, jobKey(id));
  };
  const base = () => queries.getQueryData<Job>(jobKey(id))?.head ?? "";
  // One after the other, each on what the one before has made.
  const changing = <T>(change: (given: T) => Promise<Job>) => ({
    mutationKey: changeKey(id),
    scope: { id: changeKey(id).join(" ") },
    mutationFn: change,
    onSuccess: keep,
    onError,
  });

  return {
    add: useMutation(
      changing((steps: NewStep[]) =>
        unwrap(client.POST("/api/jobs/{job_id}/steps", { params: { path }, body: { steps, base: base() } })),
      ),
    ),
    retire: useMutation(
      changing((body: { refs: string[]; retired: boolean }) =>
        unwrap(
          client.POST("/api/jobs/{job_id}/retire", { params: { path }, body: { ...body, base: base() } }),
        ),
      ),
    ),
    deleteSource: useMutation(
      changing((source: string) =>
        unwrap(
          client.DELETE("/api/jobs/{job_id}/sources/{source_id}", {
            params: { path: { ...path, source_id: source }, query: { base: base() } },
          }),
        ),
      ),
    ),
    pair: useMutation(
      changing((body: { members: string[]; together: boolean }) =>
        unwrap(
          client.POST("/api/jobs/{job_id}/pairings", { params: { path }, body: { ...body, base: base() } }),
        ),
      ),
    ),
    change: useMutation(
      changing(({ step, ...body }: { step: string; amends?: string } & StepChange) =>
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
      onSuccess: () => renew(queries, ["revisions", id]),
    }),
    deliver: useMutation({
      mutationFn: (body: { refs: string[]; depth: Depth; dither: boolean }) =>
        unwrap(
          client.POST("/api/jobs/{job_id}/deliveries", {
            params: { path },
            body: { ...body, revision: base() },
          }),
        ),
      onSuccess: () => renew(queries, ["deliveries", id]),
    }),
  };
}

export type JobActions = ReturnType<typeof useJobActions>;

export function useJobsActions() {
  const queries = useQueryClient();
  const refresh = () => renew(queries, ["jobs"]);
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

export const removeUpload = (id: string) =>
  unwrap(client.DELETE("/api/uploads/{upload_id}", { params: { path: { upload_id: id } } }));
