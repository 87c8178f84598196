/** The files of the job. */
import { Sources, type Uploads } from "../features/sources";
import { useBench, useWorkbench } from "./useWorkbench";
import { shownFiles, shownStep } from "./view";

export function SourcesPane({ uploads }: { uploads: Uploads }) {
  const bench = useBench();
  // What is only tried is not counted here.
  const job = useWorkbench((state) => state.job);
  const filter = useWorkbench((state) => state.filter);
  const files = useWorkbench(shownFiles);
  const step = useWorkbench(shownStep);
  const asking = useWorkbench((state) => state.preview?.kind === "question");
  return (
    <Sources
      job={job}
      uploads={uploads}
      selected={[...(asking ? files : (step?.inputs ?? files))]}
      filter={filter}
      filterInput={bench.focus.setField("filter")}
      onFilterDone={() => bench.focus.returnFocus()}
      actions={bench}
    />
  );
}
