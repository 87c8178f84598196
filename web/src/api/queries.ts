/** What is fetched, and how it is fetched anew. */

import {
  keepPreviousData,
  type QueryClient,
  type QueryKey,
  queryOptions,
  useQuery,
} from "@tanstack/react-query";
import { fetchFloats, type View } from "./binary";
import { client, type Job, type Matching, type Order, unwrap } from "./client";
import type { Of } from "./turns";

/**
 * Ask anew for what has changed. What is on its way was asked before and may answer with what was: it is given up, a
 * first answer too, which invalidating alone would wait for.
 */
export async function refetch(queries: QueryClient, ...keys: readonly QueryKey[]) {
  await Promise.all(
    keys.map(async (queryKey) => {
      await queries.cancelQueries({ queryKey });
      await queries.invalidateQueries({ queryKey });
    }),
  );
}

export const useJobs = (enabled = true) =>
  useQuery({
    queryKey: ["jobs"],
    enabled,
    queryFn: ({ signal }) => unwrap(client.GET("/api/jobs", { signal })),
  });

export const useStorage = () =>
  useQuery({
    queryKey: ["storage"],
    queryFn: ({ signal }) => unwrap(client.GET("/api/storage", { signal })),
  });

export const useRevisions = (id: string) =>
  useQuery({
    queryKey: ["revisions", id],
    gcTime: 0, // a list from before the last edit is not shown again
    queryFn: ({ signal }) =>
      unwrap(client.GET("/api/jobs/{job_id}/revisions", { signal, params: { path: { job_id: id } } })),
  });

/** What a revision changed, in sentences, against the one before it or against another. */
export const useChanges = (job: string, revision: string, since: string | null, enabled: boolean) =>
  useQuery({
    queryKey: ["changes", job, revision, since],
    enabled,
    staleTime: Infinity,
    queryFn: ({ signal }) =>
      unwrap(
        client.GET("/api/jobs/{job_id}/revisions/{revision_id}/changes", {
          signal,
          params: { path: { job_id: job, revision_id: revision }, query: since ? { since } : {} },
        }),
      ),
  });

export const useRecipes = () =>
  useQuery({
    queryKey: ["recipes"],
    queryFn: ({ signal }) => unwrap(client.GET("/api/recipes", { signal })),
  });

/** Which clips would take which role of a recipe; why none do is its problem. */
export const useRecipeMatch = ({ id, head }: Job, recipe: string, refs: readonly string[], by: Matching) =>
  useQuery({
    queryKey: ["recipe match", recipe, id, head, refs, by],
    enabled: refs.length > 0,
    retry: false,
    queryFn: () =>
      unwrap(
        client.POST("/api/jobs/{job_id}/recipes/match", {
          params: { path: { job_id: id } },
          body: { base: head, recipe, refs: [...refs], by },
        }),
      ),
  });

/** The files that a delivery would write. */
export const planDelivery = ({ id, head }: Pick<Job, "id" | "head">, order: Order) =>
  unwrap(
    client.POST("/api/jobs/{job_id}/deliveries/plan", {
      params: { path: { job_id: id } },
      body: { ...order, revision: head },
    }),
  );

/** All deliveries of a job, the newest first. */
export const listDeliveries = (job: string, signal?: AbortSignal) =>
  unwrap(
    client.GET("/api/jobs/{job_id}/deliveries", {
      params: { path: { job_id: job } },
      ...(signal && { signal }),
    }),
  );

export const useDeliveries = (id: string) =>
  useQuery({
    queryKey: ["deliveries", id],
    queryFn: ({ signal }) => listDeliveries(id, signal),
  });

/** What is different in a delivery from an earlier one; asked for while somebody looks. */
export const useDifferences = (delivery: string, since: string | null) =>
  useQuery({
    queryKey: ["differences", delivery, since],
    enabled: since !== null,
    queryFn: ({ signal }) =>
      unwrap(
        client.GET("/api/deliveries/{delivery_id}/differences", {
          signal,
          params: { path: { delivery_id: delivery }, query: { since: since ?? "" } },
        }),
      ),
  });

export const useKeptSettings = () =>
  useQuery({
    queryKey: ["delivery-settings"],
    queryFn: ({ signal }) => unwrap(client.GET("/api/delivery-settings", { signal })),
  });

/** The folder on the server that can be delivered to. */
export const useDeliveryFolder = () =>
  useQuery({
    queryKey: ["delivery-folder"],
    queryFn: ({ signal }) => unwrap(client.GET("/api/delivery-folder", { signal })),
  });

export const useUnfinished = (id: string) =>
  useQuery({
    queryKey: ["unfinished", id],
    queryFn: ({ signal }) =>
      unwrap(client.GET("/api/jobs/{job_id}/uploads", { signal, params: { path: { job_id: id } } })),
  });

export const useSource = (job: string, id: string) =>
  useQuery({
    queryKey: ["source", job, id],
    queryFn: ({ signal }) =>
      unwrap(
        client.GET("/api/jobs/{job_id}/sources/{source_id}", {
          signal,
          params: { path: { job_id: job, source_id: id } },
        }),
      ),
  });

/** Levels of clips laid side by side, kept by their keys: they never change. */
export const measuresOf = (view: View, key: string) =>
  queryOptions({
    queryKey: ["measures", key],
    staleTime: Infinity,
    queryFn: ({ signal }) =>
      unwrap(
        client.GET("/api/jobs/{job_id}/revisions/{revision_id}/measures", {
          signal,
          params: {
            path: { job_id: view.job, revision_id: view.revision },
            query: { clip: [...view.clips] },
          },
        }),
      ),
  });

export const useMeasures = (view: View, key: string) =>
  useQuery({ ...measuresOf(view, key), enabled: view.clips.length > 0 });

/** While a setting moves, the picture of before stays; that of another clip would be taken for this one's. */
const ofSameClips =
  (clips: readonly string[]) =>
  <T>(before: T | undefined, query: { queryKey: QueryKey } | undefined) =>
    query?.queryKey[1] === clips.join("+") ? before : undefined;

/** Spectrum, field and bands of a stretch of clips laid side by side. */
export const useAnalysis = (
  view: { job: string; revision: string; clips: readonly string[] },
  key: string,
  [start, end]: readonly [number, number],
  enabled: boolean,
) =>
  useQuery({
    queryKey: ["analysis", view.clips.join("+"), key, start, end],
    enabled: enabled && end > start,
    staleTime: Infinity,
    placeholderData: ofSameClips(view.clips),
    queryFn: ({ signal }) =>
      unwrap(
        client.GET("/api/jobs/{job_id}/revisions/{revision_id}/analysis", {
          signal,
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
    queryKey: ["map", view.clips.join("+"), key, start, end],
    enabled: end > start,
    staleTime: Infinity,
    placeholderData: ofSameClips(view.clips),
    queryFn: ({ signal }) => fetchFloats(view, "map", { start, frames: end - start }, signal),
  });

/** Momentary and short-term loudness of a minute of a clip, in pairs for each stretch of 100 ms. */
export const useLoudness = (view: View, key: string, minute: number, enabled: boolean) =>
  useQuery({
    queryKey: ["loudness", view.clips.join("+"), key, minute],
    enabled: enabled && view.clips.length > 0,
    staleTime: Infinity,
    queryFn: ({ signal }) =>
      fetchFloats(view, "loudness", { first: minute * LOUDNESS_STEPS, count: LOUDNESS_STEPS }, signal),
  });

/** Stretches of loudness in a minute. */
export const LOUDNESS_STEPS = 600;

/** What taking the centre of a clip out will find. */
export const useExpectation = (
  view: { job: string; revision: string; clip: string },
  key: string,
  method: Of<"centre">["method"],
) =>
  useQuery({
    queryKey: ["expectation", key, method],
    enabled: view.clip !== "" && key !== "",
    staleTime: Infinity,
    queryFn: ({ signal }) =>
      unwrap(
        client.GET("/api/jobs/{job_id}/revisions/{revision_id}/expectation", {
          signal,
          params: {
            path: { job_id: view.job, revision_id: view.revision },
            query: { clip: view.clip, method },
          },
        }),
      ),
  });

/** How well a voice at a position, −1 to 1, should come out of a clip. */
export const useForecast = (
  view: { job: string; revision: string; clip: string },
  key: string,
  position: number,
) =>
  useQuery({
    queryKey: ["forecast", view.clip, key, position],
    enabled: view.clip !== "" && key !== "",
    staleTime: Infinity,
    placeholderData: ofSameClips([view.clip]),
    queryFn: ({ signal }) =>
      unwrap(
        client.GET("/api/jobs/{job_id}/revisions/{revision_id}/forecast", {
          signal,
          params: {
            path: { job_id: view.job, revision_id: view.revision },
            query: { clip: view.clip, position },
          },
        }),
      ),
  });

/** Where hushes would help in a clip, by a threshold in dB or by the one that fits it. */
export const useSuggestedHushes = (
  view: { job: string; revision: string; clip: string },
  key: string,
  threshold: number | null,
  enabled: boolean,
) =>
  useQuery({
    queryKey: ["hushes", view.clip, key, threshold],
    enabled: enabled && view.clip !== "" && key !== "",
    staleTime: Infinity,
    placeholderData: ofSameClips([view.clip]),
    queryFn: ({ signal }) =>
      unwrap(
        client.GET("/api/jobs/{job_id}/revisions/{revision_id}/hushes", {
          signal,
          params: {
            path: { job_id: view.job, revision_id: view.revision },
            query: { clip: view.clip, ...(threshold === null ? {} : { threshold_db: threshold }) },
          },
        }),
      ),
  });

/** How late the other channels of a clip are behind the first. */
export const useLateness = (
  view: { job: string; revision: string; clip: string },
  key: string,
  enabled: boolean,
) =>
  useQuery({
    queryKey: ["lateness", key],
    enabled: enabled && view.clip !== "" && key !== "",
    staleTime: Infinity,
    queryFn: ({ signal }) =>
      unwrap(
        client.GET("/api/jobs/{job_id}/revisions/{revision_id}/lateness", {
          signal,
          params: { path: { job_id: view.job, revision_id: view.revision }, query: { clip: view.clip } },
        }),
      ),
  });

/** How a blend of two channels adds up in mono, and what would be best. */
export const useBlending = (
  view: { job: string; revision: string; clip: string },
  key: string,
  { share, delay, flip }: { share: number; delay: number; flip: boolean },
) =>
  useQuery({
    queryKey: ["blending", view.clip, key, share, delay, flip],
    enabled: view.clip !== "" && key !== "",
    staleTime: Infinity,
    placeholderData: ofSameClips([view.clip]),
    queryFn: ({ signal }) =>
      unwrap(
        client.GET("/api/jobs/{job_id}/revisions/{revision_id}/blending", {
          signal,
          params: {
            path: { job_id: view.job, revision_id: view.revision },
            query: { clip: view.clip, share, delay, flip },
          },
        }),
      ),
  });

export const useSines = (degrees: number, gain_db: number) =>
  useQuery({
    queryKey: ["sines", degrees, gain_db],
    staleTime: Infinity,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      unwrap(client.GET("/api/why/sines", { signal, params: { query: { degrees, gain_db } } })),
  });

export const useLaws = () =>
  useQuery({
    queryKey: ["laws"],
    staleTime: Infinity,
    queryFn: ({ signal }) => unwrap(client.GET("/api/why/laws", { signal })),
  });

/** Until another order is planned, that of before stays. */
export const usePlannedFiles = (job: Job, order: Order) =>
  useQuery({
    queryKey: ["planned", job.id, job.head, order],
    placeholderData: (before, query) => (query?.queryKey[1] === job.id ? before : undefined),
    enabled: order.refs.length > 0,
    queryFn: () => planDelivery(job, order),
  });
