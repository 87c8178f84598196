/** What changes the list of jobs, the history and the deliveries. Edits of a worksheet are in `worksheet.ts`. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { client, type Job, type Order, unwrap } from "./client";
import { renew } from "./queries";

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
    onSuccess: () => renew(queries, ["revisions", job]),
  });
}

/** Another name for a job; its page hears of it by the event. */
export function useRenameJob(job: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (name: string) =>
      unwrap(client.PATCH("/api/jobs/{job_id}", { params: { path: { job_id: job } }, body: { name } })),
    onSuccess: () => renew(queries, ["jobs"]),
  });
}

/** Deliver clips of the worksheet as it is shown. */
export function useDeliver({ id, head }: Job) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Order) =>
      unwrap(
        client.POST("/api/jobs/{job_id}/deliveries", {
          params: { path: { job_id: id } },
          body: { ...body, revision: head },
        }),
      ),
    onSuccess: () => renew(queries, ["deliveries", id]),
  });
}

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
