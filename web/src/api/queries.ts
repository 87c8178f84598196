/** What is fetched, what changes it, and what an event makes stale. */
import {
  keepPreviousData,
  type QueryClient,
  type QueryKey,
  useMutation,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { fetchFloats, type View } from "./binary";
import {
  client,
  type Delivery,
  type Depth,
  type Job,
  type NewStep,
  Problem,
  type Turn,
  unwrap,
} from "./client";

const jobKey = (id: string) => ["job", id] as const;

/**
 * Ask anew for what has changed. What is on its way was asked before and may answer with what was: it is given up, a
 * first answer too, which invalidating alone would wait for.
 */
export async function renew(queries: QueryClient, ...keys: readonly QueryKey[]) {
  await Promise.all(
    keys.map(async (queryKey) => {
      await queries.cancelQueries({ queryKey });
      await queries.invalidateQueries({ queryKey });
    }),
  );
}

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

export const useUnfinished = (id: string) =>
  useQuery({
    queryKey: ["unfinished", id],
    queryFn: () => unwrap(client.GET("/api/jobs/{job_id}/uploads", { params: { path: { job_id: id } } })),
  });

export const removeUpload = (id: string) =>
  unwrap(client.DELETE("/api/uploads/{upload_id}", { params: { path: { upload_id: id } } }));

export const useSource = (job: string, id: string) =>
  useQuery({
    queryKey: ["source", job, id],
    queryFn: () =>
      unwrap(
        client.GET("/api/jobs/{job_id}/sources/{source_id}", {
          params: { path: { job_id: job, source_id: id } },
        }),
      ),
  });

/** Levels of clips laid side by side, kept by their keys: they never change. */
export const useMeasures = (view: { job: string; revision: string; clips: readonly string[] }, key: string) =>
  useQuery({
    queryKey: ["measures", key],
    enabled: view.clips.length > 0,
    staleTime: Infinity,
    queryFn: () =>
      unwrap(
        client.GET("/api/jobs/{job_id}/revisions/{revision_id}/measures", {
          params: {
            path: { job_id: view.job, revision_id: view.revision },
            query: { clip: [...view.clips] },
          },
        }),
      ),
  });

/** Spectrum, field and bands of a stretch of clips laid side by side. */
export const useAnalysis = (
  view: { job: string; revision: string; clips: readonly string[] },
  key: string,
  [start, end]: readonly [number, number],
  enabled: boolean,
) =>
  useQuery({
    queryKey: ["analysis", key, start, end],
    enabled: enabled && end > start,
    staleTime: Infinity,
    placeholderData: keepPreviousData,
    queryFn: () =>
      unwrap(
        client.GET("/api/jobs/{job_id}/revisions/{revision_id}/analysis", {
          params: {
            path: { job_id: view.job, revision_id: view.revision },
            query: { clip: [...view.clips], start, frames: end - start },
          },
        }),
      ),
  });

/** Energy by frequency and direction of a stretch of a clip, in dB below the loudest place. */
export const useMap = (view: View, key: string, [start, end]: readonly [number, number]) =>
  useQuery({
    queryKey: ["map", key, start, end],
    enabled: end > start,
    staleTime: Infinity,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => fetchFloats(view, "map", { start, frames: end - start }, signal),
  });

/** What taking the centre of a clip out will find. */
export const useExpectation = (view: { job: string; revision: string; clip: string }, key: string) =>
  useQuery({
    queryKey: ["expectation", key],
    enabled: view.clip !== "" && key !== "",
    staleTime: Infinity,
    queryFn: () =>
      unwrap(
        client.GET("/api/jobs/{job_id}/revisions/{revision_id}/expectation", {
          params: { path: { job_id: view.job, revision_id: view.revision }, query: { clip: view.clip } },
        }),
      ),
  });

export const useSines = (degrees: number, gain_db: number) =>
  useQuery({
    queryKey: ["sines", degrees, gain_db],
    staleTime: Infinity,
    placeholderData: keepPreviousData,
    queryFn: () => unwrap(client.GET("/api/why/sines", { params: { query: { degrees, gain_db } } })),
  });

export const useLaws = () =>
  useQuery({ queryKey: ["laws"], staleTime: Infinity, queryFn: () => unwrap(client.GET("/api/why/laws")) });

export const usePlannedFiles = (job: Job, refs: string[], depth: Depth, dither: boolean) =>
  useQuery({
    queryKey: ["planned", job.id, job.head, refs, depth, dither],
    enabled: refs.length > 0,
    queryFn: () =>
      unwrap(
        client.POST("/api/jobs/{job_id}/deliveries/plan", {
          params: { path: { job_id: job.id } },
          body: { revision: job.head, refs, depth, dither },
        }),
      ),
  });

type Arrival = (job: Job) => Promise<void>;
const arrivals = new Map<string, Set<Arrival>>();
/** The heads of jobs that have been answered and are about to be shown. */
const heads = new Map<string, string>();
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

export function useJobActions(id: string) {
  const queries = useQueryClient();
  const path = { job_id: id };
  const keep = async (job: Job) => {
    heads.set(id, job.head);
    const ready = Promise.all([...(arrivals.get(id) ?? [])].map((tell) => tell(job)));
    await Promise.race([ready, new Promise((resolve) => setTimeout(resolve, HEAD_START))]);
    heads.delete(id);
    await queries.cancelQueries({ queryKey: jobKey(id) });
    queries.setQueryData(jobKey(id), job);
    renew(queries, ["revisions", id]);
  };
  // Another window was faster: show what is there now, so that the change can be made once more.
  const onError = (error: Error) => {
    if (error instanceof Problem && error.code === "stale") renew(queries, jobKey(id));
  };
  const base = () => heads.get(id) ?? queries.getQueryData<Job>(jobKey(id))?.head ?? "";
  const changing = <T>(change: (given: T) => Promise<Job>) => ({
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
export type StepChange = { turn?: Turn; inputs?: string[]; names?: string[] };
/** Changes of a setting that follow each other within this time are one: undo takes them back together. */
const ONE_GESTURE = 1500; // milliseconds

/**
 * Changing a step while a slider moves: one change is on its way at a time, and of those that come meanwhile only the
 * last is sent. Each takes the place of the one before, so that the worksheet's history holds the gesture once.
 * Until the last has been answered the draft is what holds: what is changed next builds on it, not on an answer that
 * is already behind.
 */
export function useStepChange(actions: JobActions, head: string, onError: (problem: unknown) => void) {
  const [draft, setDraft] = useState<({ step: string } & StepChange) | null>(null);
  const state = useRef({
    busy: false,
    next: null as ({ step: string } & StepChange) | null,
    gesture: { step: "", head: "", until: 0 },
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: a worksheet that arrives is when to look.
  useEffect(() => {
    if (!state.current.busy) setDraft(null);
  }, [head]);
  const { mutateAsync } = actions.change;
  const change = useCallback(
    (step: string, change: StepChange) => {
      setDraft((before) => ({ ...(before?.step === step && before), ...change, step }));
      const now = state.current;
      const send = async (one: { step: string } & StepChange) => {
        now.busy = true;
        const { gesture } = now;
        const goesOn = one.turn && gesture.step === one.step && Date.now() < gesture.until;
        try {
          const job = await mutateAsync(goesOn ? { ...one, amends: gesture.head } : one);
          now.gesture = { step: one.turn ? one.step : "", head: job.head, until: Date.now() + ONE_GESTURE };
        } catch (problem) {
          onError(problem);
          setDraft(null);
        }
        now.busy = false;
        const { next } = now;
        now.next = null;
        if (next) void send(next);
      };
      if (!now.busy) void send({ step, ...change });
      else if (now.next?.step === step) now.next = { ...now.next, ...change };
      else now.next = { step, ...change };
    },
    [mutateAsync, onError],
  );
  return { draft, change };
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
