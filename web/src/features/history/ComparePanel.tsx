/** A line as it was in an earlier version and as it is now, both to be heard. */
import { Flex, Text } from "@chakra-ui/react";
import type { Step } from "../../api/client";
import { Keys } from "../../shared/commands";
import { AsidePane, PaneTitle, PrimaryButton, QuietButton } from "../../shared/parts";

/** A line of a version, to be heard against what it is now. */
export type Compared = { revision: string; number: number; step: string; sentence: string };

export const PANE = "then-and-now";

type Props = {
  compared: Compared;
  was: Step | null;
  /** Null where it was removed. */
  now: Step | null;
  problem: Error | null;
  onRestore: () => void;
  onClose: () => void;
};

export function ComparePanel({ compared, was, now, problem, onRestore, onClose }: Props) {
  return (
    <AsidePane label="Then and now" id={PANE}>
      <PaneTitle right={<QuietButton onClick={onClose}>Close</QuietButton>}>Then and now</PaneTitle>
      <Text textStyle="strong">{compared.sentence}</Text>
      {problem ? (
        <Text layerStyle="danger" role="alert">
          {problem.message}
        </Text>
      ) : (
        <>
          <Said title={`In version ${compared.number}`} text={was?.sentence ?? "…"} />
          <Said title="Now" text={now?.sentence ?? "The line was removed."} />
          <Text layerStyle="quiet">
            Then: the earlier version. Now: the current line. Compare them with <Keys of="switchSide" />.
          </Text>
        </>
      )}
      <Flex direction="column" gap={2}>
        <PrimaryButton onClick={onRestore}>Restore this line</PrimaryButton>
      </Flex>
    </AsidePane>
  );
}

function Said({ title, text }: { title: string; text: string }) {
  return (
    <div>
      <Text layerStyle="note">{title}</Text>
      <Text>{text}</Text>
    </div>
  );
}
