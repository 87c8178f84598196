/** Where the panels' clips are heard, and what is done from there. */
import { useMemo } from "react";
import { useBench, useWorkbench } from "./useWorkbench";
import { clipsOf, shownJob } from "./view";

export function usePlace() {
  const bench = useBench();
  const job = useWorkbench(shownJob);
  return useMemo(() => {
    const clips = clipsOf(job);
    const { session } = bench;
    return {
      job: job.id,
      revision: job.head,
      keyOf: (ref: string) => clips.get(ref)?.key ?? "",
      selected: () => session.selected,
      playhead: () => session.player.position,
      files: job.sources,
      insertBefore: (line: string, step: Parameters<typeof bench.add>[0][number]) =>
        void bench.add([step], { before: line }),
    };
  }, [bench, job]);
}
