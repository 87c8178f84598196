/** What the files of a job need: everything safe by one click, and what has to be heard first. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { Job, NewStep } from "../../api/client";
import { count } from "../../shared/format";
import { PrimaryButton, QuietButton, SecondaryButton } from "../../shared/parts";
import { Sheet } from "../../shared/Sheet";

type Props = {
  job: Job;
  names: Map<string, string>;
  onAdd: (steps: NewStep[]) => void;
  onAsk: () => void;
};

export function PrepareStrip({ job, names, onAdd, onAsk }: Props) {
  const [why, setWhy] = useState(false);
  const { safe, questions, untouched } = job.preparation;
  const unmeasured = job.sources.filter((one) => !one.measured && !one.problem && !one.archived).length;
  if (safe.length === 0 && questions.length === 0) return null;
  const add = () => {
    setWhy(false);
    onAdd(safe.map(({ turn, inputs, names, reason }) => ({ turn, inputs, names, reason })));
  };
  const words = `Add ${count(safe.length, "safe turn")}`;
  return (
    <Flex align="center" gap={2} minH={9} flexShrink={0} role="group" aria-label="What the files need">
      {safe.length > 0 && (
        <>
          <SecondaryButton onClick={add}>{words}</SecondaryButton>
          <QuietButton onClick={() => setWhy(true)}>Details…</QuietButton>
        </>
      )}
      {questions.length > 0 && (
        <SecondaryButton onClick={onAsk}>{count(questions.length, "question")}…</SecondaryButton>
      )}
      <Text layerStyle="note" truncate>
        {unmeasured > 0
          ? `analysing ${count(unmeasured, "file")}…`
          : untouched.length > 0 && `${count(untouched.length, "file")} OK`}
      </Text>
      <Sheet
        title={count(safe.length, "safe turn")}
        open={why}
        onClose={() => setWhy(false)}
        footer={<PrimaryButton onClick={add}>{words}</PrimaryButton>}
      >
        <Text layerStyle="quiet" mb={3}>
          None of these changes anything audible. They’re added together and undone in one step.
        </Text>
        {safe.map((one) => (
          <Box key={one.inputs.join(" ")} layerStyle="row">
            <Text textStyle="strong">
              {one.inputs.map((ref) => names.get(ref)).join(" + ")} → {one.label}
            </Text>
            <Text layerStyle="note">{one.reason}</Text>
          </Box>
        ))}
      </Sheet>
    </Flex>
  );
}
