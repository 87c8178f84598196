/** The pane on the right: a question, a line then and now, a file, or a line and its settings. */
import { useDeferredValue, useMemo } from "react";
import type { Source, Step } from "../api/client";
import { ComparePanel } from "../features/history";
import { QuestionPanel } from "../features/prepare";
import { SourcePanel } from "../features/sources";
import { TurnPanel } from "../features/turns";
import { clipNames } from "../features/worksheet";
import { LineMenu } from "./LineMenu";
import { choicesBefore } from "./lineEdits";
import { findDraft, type Preview } from "./previews";
import { countQuestions } from "./questions";
import { useBench, useWorkbench } from "./useWorkbench";
import { askedQuestion, shownStep } from "./view";

export function Aside() {
  const job = useWorkbench((state) => state.job);
  const preview = useWorkbench((state) => state.preview);
  // Whoever goes through a list sees where they are first, and what there is to know about it after that.
  const line = useDeferredValue(useWorkbench((state) => state.line));
  const fileRef = useDeferredValue(useWorkbench((state) => state.files.at(-1)));
  if (preview?.kind === "question") return <QuestionPane preview={preview} />;
  if (preview?.kind === "version") return <VersionPane preview={preview} />;
  const step = job.steps.find((one) => one.id === line);
  if (step) return <LinePane step={step} />;
  const file = job.sources.find((one) => one.ref === fileRef);
  return file ? <FilePane file={file} /> : null;
}

type Of<K extends Preview["kind"]> = { preview: Extract<Preview, { kind: K }> };

function QuestionPane({ preview: { progress, draft } }: Of<"question">) {
  const bench = useBench();
  const job = useWorkbench((state) => state.job);
  const question = useWorkbench(askedQuestion);
  const step = useWorkbench(shownStep);
  const names = useMemo(() => clipNames(job), [job]);
  return (
    <QuestionPanel
      question={question}
      name={question?.inputs.map((ref) => names.get(ref)).join(" + ") ?? ""}
      {...countQuestions(progress, job)}
      step={step}
      problem={draft?.problem ?? null}
      onRetry={() => bench.previews.load(true)}
      onTake={() => bench.previews.takeAnswer()}
      onDismiss={() => bench.previews.dismissQuestion()}
      onBack={progress.answered.length ? () => bench.previews.undoAnswer() : null}
      onClose={() => bench.previews.close()}
    />
  );
}

function VersionPane({ preview: { line, draft } }: Of<"version">) {
  const bench = useBench();
  const then = useWorkbench(findDraft);
  const now = useWorkbench((state) => state.job);
  return (
    <ComparePanel
      compared={line}
      was={then?.steps.at(-1) ?? null}
      now={now.steps.find(({ id }) => id === line.step) ?? null}
      problem={draft?.problem ?? null}
      onRestore={() => {
        bench.do({ kind: "restoreLine", revision: line.revision, step: line.step });
        bench.previews.close();
      }}
      onClose={() => bench.previews.close()}
    />
  );
}

function FilePane({ file }: { file: Source }) {
  const bench = useBench();
  const job = useWorkbench((state) => state.job);
  const files = useWorkbench((state) => state.files);
  const chosen = job.sources.filter((one) => files.includes(one.ref)).map((one) => one.id);
  return <SourcePanel job={job} source={file} chosen={chosen} actions={bench} />;
}

function LinePane({ step }: { step: Step }) {
  const bench = useBench();
  const job = useWorkbench((state) => state.job);
  const names = useMemo(() => clipNames(job), [job]);
  return (
    <TurnPanel
      step={step}
      names={names}
      onChange={(change) =>
        change.inputs && !change.turn ? bench.setInputs(step, change.inputs) : bench.change(step.id, change)
      }
      choices={() => choicesBefore(job, step.id)}
      menu={<LineMenu />}
      onSteps={(steps) => void bench.add(steps)}
    />
  );
}
