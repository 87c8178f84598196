/** The pane on the right: a question, a line then and now, a file, or a line and its settings. */
import type { Job, NewStep, Source, Step } from "../api/client";
import type { StepChange } from "../api/edits";
import type { Worksheet as WorksheetStore } from "../api/worksheet";
import { type Compared, ComparePanel } from "../features/history";
import type { Copied } from "../features/jobs";
import { QuestionPanel } from "../features/prepare";
import { SourcePanel } from "../features/sources";
import { LineMenu, TurnPanel } from "../features/turns";
import { choicesBefore, setInputs } from "./lineEdits";
import type { useLines } from "./useLines";
import type { useQuestions } from "./useQuestions";
import type { useVersionComparison } from "./useVersionComparison";

type Props = {
  job: Job;
  names: Map<string, string>;
  edits: WorksheetStore;
  asked: ReturnType<typeof useQuestions>;
  compared: Compared | null;
  earlier: ReturnType<typeof useVersionComparison>;
  lines: ReturnType<typeof useLines>;
  file: Source | null;
  line: Step | null;
  onChange: (line: string, change: StepChange & { gesture?: string }) => void;
  onSteps: (steps: NewStep[]) => void;
  onArchive: (refs: string[], archived: boolean) => void;
  onClose: () => void;
  /** The ids of the files that are selected. */
  chosen: string[];
  onCopy: (copied: Copied) => void;
};

export function Aside(props: Props) {
  const { job, names, edits, asked, compared, earlier, lines, file, line, onChange, onClose, onCopy } = props;
  if (asked.asking)
    return (
      <QuestionPanel
        question={asked.question}
        name={asked.question?.inputs.map((ref) => names.get(ref)).join(" + ") ?? ""}
        number={asked.number}
        of={asked.of}
        step={asked.step}
        problem={asked.problem}
        onRetry={asked.retry}
        onTake={asked.take}
        onDismiss={asked.dismiss}
        onBack={asked.back}
        onClose={onClose}
      />
    );
  if (compared)
    return (
      <ComparePanel
        {...earlier}
        compared={compared}
        onRestore={() => {
          edits.do({ kind: "restoreLine", revision: compared.revision, step: compared.step });
          onClose();
        }}
        onClose={onClose}
      />
    );
  if (file)
    return (
      <SourcePanel
        job={job}
        source={file}
        onSteps={props.onSteps}
        onArchive={props.onArchive}
        onDelete={(source) => edits.do({ kind: "deleteSource", source })}
        onReplace={(source, by) => edits.do({ kind: "replaceSource", source, by })}
        onCopy={() => onCopy({ sources: props.chosen, steps: [] })}
        onNote={(source, note, was) => edits.edit({ kind: "note", source, note, was })}
        onPair={(members, together) => edits.do({ kind: "pair", members, together })}
      />
    );
  return (
    line && (
      <TurnPanel
        step={line}
        names={names}
        onChange={(change) =>
          change.inputs && !change.turn
            ? void setInputs(edits, line, change.inputs)
            : onChange(line.id, change)
        }
        choices={() => choicesBefore(job, line.id)}
        menu={
          <LineMenu
            count={lines.selected.length}
            bypassed={lines.bypassed}
            canBypass={lines.canBypass}
            savable={lines.savable}
            onCommand={(command) =>
              command === "copy"
                ? onCopy({ sources: [], steps: [...lines.selected] })
                : lines.command(command)
            }
          />
        }
        onSteps={props.onSteps}
      />
    )
  );
}
