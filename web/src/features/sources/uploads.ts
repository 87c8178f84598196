/** The uploads of a job: those on their way, and those that broke off and can go on. */
import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { useStore } from "zustand";
import { removeUpload } from "../../api/actions";
import type { Job, Unfinished } from "../../api/client";
import { refetch, useUnfinished } from "../../api/queries";
import { tellProblem } from "../../shared/notices";
import { type DroppedFile, uploadStore } from "./uploadStore";

export type Uploads = ReturnType<typeof useUploads>;

export function useUploads(job: Job, uploads = uploadStore) {
  const queries = useQueryClient();
  const all = useStore(uploads.store, (state) => state.all).filter((one) => one.job === job.id);
  const lookAgain = (id: string) => refetch(queries, ["unfinished", id]);
  useEffect(() => uploads.onDone((id) => refetch(queries, ["unfinished", id])), [uploads, queries]);
  const onItsWay = (one: Unfinished) =>
    all.some(({ file, folder }) => file.name === one.name && folder === one.folder && file.size === one.size);
  return {
    all,
    unfinished: (useUnfinished(job.id).data ?? []).filter((one) => !onItsWay(one)),
    add: (files: readonly DroppedFile[]) =>
      uploads.add(
        job.id,
        files,
        job.sources.map((source) => source.id),
      ),
    dismiss: (id: number) => uploads.dismiss(id),
    dismissFailed: () => uploads.dismissFailed(job.id),
    again: (id: number, salvage?: boolean) => uploads.again(id, salvage),
    stopAll: () => uploads.stopAll(job.id),
    giveUp: (id: string) =>
      void removeUpload(id)
        .catch(tellProblem)
        .finally(() => lookAgain(job.id)),
  };
}
