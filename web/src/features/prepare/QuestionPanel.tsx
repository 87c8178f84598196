/** One question about a file, with its answer heard as Out: take it, dismiss it, or go back. */
import { Flex, Text } from "@chakra-ui/react";
import type { Question, Step } from "../../api/client";
import { Keys } from "../../shared/commands";
import { Failed } from "../../shared/Failed";
import { AsidePane, PaneTitle, PrimaryButton, QuietButton, SecondaryButton } from "../../shared/parts";

type Props = {
  /** Null where all are answered. */
  question: Question | null;
  name: string;
  /** Its number, from 1, and of how many. */
  number: number;
  of: number;
  /** The line that would be added; null while it is worked out, or where there is none. */
  step: Step | null;
  /** Why it could not be worked out. */
  problem: Error | null;
  onRetry: () => void;
  onTake: () => void;
  onDismiss: () => void;
  onBack: (() => void) | null;
  onClose: () => void;
};

export function QuestionPanel(props: Props) {
  const { question, name, number, of, step, problem, onRetry, onTake, onDismiss, onBack, onClose } = props;
  if (!question)
    return (
      <AsidePane label="Question">
        <PaneTitle right={<QuietButton onClick={onClose}>Close</QuietButton>}>Questions</PaneTitle>
        <Text role="status">All questions are answered.</Text>
        {onBack && <Back onBack={onBack} />}
      </AsidePane>
    );
  return (
    <AsidePane label="Question">
      <PaneTitle right={<QuietButton onClick={onClose}>Close</QuietButton>}>
        Question {number} of {of}
      </PaneTitle>
      <Text textStyle="strong" overflowWrap="anywhere">
        {name}
      </Text>
      <Text>{question.message}</Text>
      {question.remedy ? (
        <>
          <Text layerStyle="quiet">
            In: as recorded. Out: with “{question.remedy.label}”. Compare them with <Keys of="switchSide" />.
          </Text>
          {problem ? <Failed what={problem.message} onRetry={onRetry} /> : <Text>{step?.sentence}</Text>}
        </>
      ) : (
        <Text layerStyle="quiet">No single turn fixes this. Add turns yourself, or dismiss it.</Text>
      )}
      <Flex direction="column" gap={2} align="stretch">
        {question.remedy && (
          <PrimaryButton onClick={onTake} disabled={!step} justifyContent="space-between">
            {question.remedy.label} <Keys of="takeAnswer" />
          </PrimaryButton>
        )}
        <SecondaryButton size="sm" onClick={onDismiss} justifyContent="space-between">
          Dismiss <Keys of="dismiss" />
        </SecondaryButton>
        {onBack && <Back onBack={onBack} />}
      </Flex>
    </AsidePane>
  );
}

function Back({ onBack }: { onBack: () => void }) {
  return (
    <QuietButton size="sm" onClick={onBack} justifyContent="space-between">
      Undo the last answer <Keys of="undoAnswer" />
    </QuietButton>
  );
}
