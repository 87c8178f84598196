/** What changes the list of jobs, the history and the deliveries. Edits of a worksheet are in `worksheet.ts`. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import {
  client,
  type DeliverySettings,
  type Job,
  type NewRecipe,
  type Order,
  type Question,
  unwrap,
} from "./client";
import { refetch } from "./queries";
import { stepOfAnswer } from "./turns";

/** Make a revision a checkpoint, or an ordinary one again. */
export function useNameRevision(job: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ({ revision, name }: { revision: string; name: string | null }) =>
      unwrap(
        client.PATCH("/api/jobs/{job_id}/revisions/{revision_id}", {
          params: { path: { job_id: job, revision_id: revision } },
          body: { name },
        }),
      ),
    onSuccess: () => refetch(queries, ["revisions", job]),
  });
}

/** Another name for a job; its page hears of it by the event. */
export function useRenameJob(job: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (name: string) =>
      unwrap(client.PATCH("/api/jobs/{job_id}", { params: { path: { job_id: job } }, body: { name } })),
    onSuccess: () => refetch(queries, ["jobs"]),
  });
}

/** Deliver clips of the worksheet as it is shown. */
export function useDeliver(job: Job) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (order: Order) => startDelivery(job, order),
    onSuccess: () => refetch(queries, ["deliveries", job.id]),
  });
}

export const startDelivery = ({ id, head }: Job, order: Order) =>
  unwrap(
    client.POST("/api/jobs/{job_id}/deliveries", {
      params: { path: { job_id: id } },
      body: { ...order, revision: head },
    }),
  );

export function useKeptSettingsActions() {
  const queries = useQueryClient();
  const onSuccess = () => refetch(queries, ["delivery-settings"]);
  return {
    keep: useMutation({
      mutationFn: (body: { name: string; settings: DeliverySettings }) =>
        unwrap(client.POST("/api/delivery-settings", { body })),
      onSuccess,
    }),
    forget: useMutation({
      mutationFn: (id: string) =>
        unwrap(
          client.DELETE("/api/delivery-settings/{settings_id}", { params: { path: { settings_id: id } } }),
        ),
      onSuccess,
    }),
  };
}

export function useJobsActions() {
  const queries = useQueryClient();
  const refresh = () => refetch(queries, ["jobs"]);
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

/** Have the server make the demo's job, and tell how far it is. */
export const makeDemo = () => unwrap(client.POST("/api/demo", {}));
export const getDemo = () => unwrap(client.GET("/api/demo", {}));

export function useRecipeActions() {
  const queries = useQueryClient();
  const onSuccess = () => refetch(queries, ["recipes"]);
  const one = (id: string) => ({ params: { path: { recipe_id: id } } });
  return {
    save: useMutation({
      mutationFn: (body: NewRecipe) => unwrap(client.POST("/api/recipes", { body })),
      onSuccess,
    }),
    importOne: useMutation({
      mutationFn: (body: Record<string, unknown>) => unwrap(client.POST("/api/recipes/import", { body })),
      onSuccess,
    }),
    rename: useMutation({
      mutationFn: ({ id, name }: { id: string; name: string }) =>
        unwrap(client.PATCH("/api/recipes/{recipe_id}", { ...one(id), body: { name } })),
      onSuccess,
    }),
    remove: useMutation({
      mutationFn: (id: string) => unwrap(client.DELETE("/api/recipes/{recipe_id}", one(id))),
      onSuccess,
    }),
  };
}

/** Copy files and lines of a job, as it is shown, into another one or into a new one. */
export function useCopyTo({ id, head }: Job) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async (copy: {
      to: { id: string } | { name: string };
      sources: string[];
      steps: string[];
    }) => {
      const into = await unwrap(
        "id" in copy.to
          ? client.GET("/api/jobs/{job_id}", { params: { path: { job_id: copy.to.id } } })
          : client.POST("/api/jobs", { body: { name: copy.to.name } }),
      );
      const path = { job_id: into.id };
      try {
        return await unwrap(
          client.POST("/api/jobs/{job_id}/copies", {
            params: { path },
            body: { base: into.head, job: id, revision: head, sources: copy.sources, steps: copy.steps },
          }),
        );
      } catch (problem) {
        // An empty job that was made for the copy is no use.
        if ("name" in copy.to) await unwrap(client.DELETE("/api/jobs/{job_id}", { params: { path } }));
        throw problem;
      }
    },
    onSettled: () => refetch(queries, ["jobs"]),
  });
}

export const clearJob = (job: string, what: "derived" | "deliveries") =>
  unwrap(client.POST("/api/jobs/{job_id}/clear", { params: { path: { job_id: job } }, body: { what } }));

export const stopDelivery = (id: string) =>
  unwrap(client.POST("/api/deliveries/{delivery_id}/stop", { params: { path: { delivery_id: id } } }));

export const deleteDelivery = (id: string) =>
  unwrap(client.DELETE("/api/deliveries/{delivery_id}", { params: { path: { delivery_id: id } } }));

export const removeUpload = (id: string) =>
  unwrap(client.DELETE("/api/uploads/{upload_id}", { params: { path: { upload_id: id } } }));

/** A job with the answer to a question added, to be seen and heard before it is taken. The server soon forgets it. */
export async function makeDraft({ id, head }: Job, question: Question, signal: AbortSignal): Promise<Job> {
  const step = stepOfAnswer(question);
  if (!step) throw new Error("There is nothing to try");
  return unwrap(
    client.POST("/api/jobs/{job_id}/drafts", {
      signal,
      params: { path: { job_id: id } },
      body: { base: head, step },
    }),
  );
}

/** The job with a line as it was in an earlier version at its end, to be heard against what it is now. */
export const makeComparison = (
  { id, head }: Job,
  line: { revision: string; step: string },
  signal: AbortSignal,
): Promise<Job> =>
  unwrap(
    client.POST("/api/jobs/{job_id}/revisions/{revision_id}/lines/{step_id}/beside", {
      signal,
      params: { path: { job_id: id, revision_id: line.revision, step_id: line.step }, query: { base: head } },
    }),
  );
