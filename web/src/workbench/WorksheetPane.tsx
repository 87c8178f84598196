/** The lines, what the files need above them, and what can be added below. */
import { useMemo } from "react";
import { PrepareStrip } from "../features/prepare";
import { clipNames, Worksheet } from "../features/worksheet";
import { AddLine } from "./AddLine";
import { useBench, useSelectedLines, useWorkbench } from "./useWorkbench";
import { isAsking, shownJob, shownStep } from "./view";

export function WorksheetPane({ share }: { share: number }) {
  const bench = useBench();
  const current = useWorkbench((state) => state.job);
  const comparing = useWorkbench((state) => state.preview?.kind === "version");
  const asking = useWorkbench(isAsking);
  const tried = useWorkbench(shownJob);
  const step = useWorkbench(shownStep);
  const line = useWorkbench((state) => state.line);
  const selected = useSelectedLines();
  const names = useMemo(() => clipNames(current), [current]);
  const preview = asking ? (step?.id ?? null) : null;
  return (
    <Worksheet
      job={comparing ? current : tried}
      current={asking ? preview : line}
      selected={asking ? [] : selected}
      preview={preview}
      onSelect={(id, held) => bench.chooseLine(id, held)}
      onInput={(one, input, ref) =>
        bench.setInputs(
          one,
          one.inputs.map((was, n) => (n === input ? ref : was)),
        )
      }
      onDownload={(id) => void bench.download([id])}
      share={share}
      top={
        !asking && (
          <PrepareStrip
            job={current}
            names={names}
            onAdd={(steps) => void bench.add(steps)}
            onAsk={() => bench.previews.askQuestions()}
          />
        )
      }
    >
      {!asking && <AddLine />}
    </Worksheet>
  );
}
