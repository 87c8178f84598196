/** Taking files in: two at a time, each with its progress; what breaks off goes on later. */
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { removeUpload } from "../../api/actions";
import { type Job, Problem, type Unfinished } from "../../api/client";
import { renew, useUnfinished } from "../../api/queries";
import { upload } from "../../api/upload";
import { tell } from "../../shared/notices";

/** A file and the folder it was dropped from. */
export type Taken = { file: File; folder: string };
export type Upload = Taken & { id: number; share: number; waiting: boolean; problem: Problem | null };
export type Uploads = ReturnType<typeof useUploads>;
const AT_ONCE = 2;

export function useUploads(job: Job) {
  "use no memo"; // what goes on between renderings is kept beside them
  const [all, setAll] = useState<Upload[]>([]);
  const aborts = useRef(new Map<number, AbortController>());
  const waiting = useRef<Upload[]>([]);
  const running = useRef(0);
  const next = useRef(0);
  const known = useRef(new Set<string>());
  known.current = new Set(job.sources.map((source) => source.id));
  const queries = useQueryClient();
  const lookAgain = useCallback(() => void renew(queries, ["unfinished", job.id]), [queries, job.id]);

  const patch = useCallback((id: number, change: Partial<Upload>) => {
    setAll((list) => list.map((one) => (one.id === id ? { ...one, ...change } : one)));
  }, []);
  const dismiss = useCallback((id: number) => {
    aborts.current.get(id)?.abort();
    waiting.current = waiting.current.filter((one) => one.id !== id);
    setAll((list) => list.filter((one) => one.id !== id));
  }, []);

  const pump = useCallback(() => {
    while (running.current < AT_ONCE) {
      const one = waiting.current.shift();
      if (!one) return;
      running.current++;
      const abort = new AbortController();
      aborts.current.set(one.id, abort);
      const before = known.current;
      upload(job.id, one, (share, lost) => patch(one.id, { share, waiting: lost }), abort.signal)
        .then(
          (source) => {
            if (before.has(source)) tell(`${one.file.name} is there already`, "It was not taken in twice.");
            aborts.current.delete(one.id); // it has arrived: there is nothing left to stop
            dismiss(one.id);
          },
          (problem: unknown) => {
            if (problem instanceof Problem && problem.code !== "stopped") patch(one.id, { problem });
          },
        )
        .finally(() => {
          running.current--;
          aborts.current.delete(one.id);
          if (running.current === 0) lookAgain();
          pump();
        });
    }
  }, [job.id, patch, dismiss, lookAgain]);

  const add = useCallback(
    (files: Taken[]) => {
      const fresh = files.map((one) => ({
        ...one,
        id: next.current++,
        share: 0,
        waiting: false,
        problem: null,
      }));
      waiting.current.push(...fresh);
      setAll((list) => [...list, ...fresh]);
      pump();
    },
    [pump],
  );
  const stopAll = useCallback(() => {
    waiting.current = [];
    for (const abort of aborts.current.values()) abort.abort();
    setAll((list) => list.filter((one) => one.problem));
  }, []);
  const giveUp = useCallback((id: string) => void removeUpload(id).finally(lookAgain), [lookAgain]);

  // A page that is left would break off what is still on its way.
  const busy = all.some((one) => !one.problem);
  useEffect(() => {
    if (!busy) return;
    const warn = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener("beforeunload", warn);
    return () => window.removeEventListener("beforeunload", warn);
  }, [busy]);

  const stopped = useUnfinished(job.id).data;
  const unfinished = useMemo(() => {
    const going = (one: Unfinished) =>
      all.some(
        ({ file, folder }) => file.name === one.name && folder === one.folder && file.size === one.size,
      );
    return stopped?.filter((one) => !going(one)) ?? [];
  }, [stopped, all]);
  return { all, unfinished, add, dismiss, stopAll, giveUp };
}
