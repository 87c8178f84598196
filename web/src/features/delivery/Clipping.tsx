/** What would be clipped, and by how much it would have to come down. */
import { Flex, Text } from "@chakra-ui/react";
import type { NewStep, PlannedFile } from "../../api/client";
import { count } from "../../shared/format";
import { SecondaryButton } from "../../shared/parts";

type Props = { planned: PlannedFile[]; onLower: (steps: NewStep[]) => void };

export function Clipping({ planned, onLower }: Props) {
  const over = planned.filter((file) => (file.over_db ?? 0) > 0);
  if (over.length === 0) return null;
  const most = Math.max(...over.map((file) => file.over_db ?? 0));
  const lowered = planned.filter((file) => file.lower_db > 0);
  const by = [...new Set(lowered.map((file) => file.lower_db))];
  const lower = () =>
    onLower(
      lowered.map((file) => ({
        turn: { kind: "level", gains_db: [-file.lower_db] },
        inputs: [file.ref],
        names: [],
      })),
    );
  return (
    <Flex gap={3} align="center" mb={3} role="alert">
      <Text layerStyle="warning">
        {count(over.length, "file")} would clip, by up to {most.toFixed(1)} dB.
      </Text>
      <SecondaryButton
        onClick={lower}
        title="Adds a level line for each; the results of one line keep their balance"
      >
        Lower {lowered.length === 1 ? "it" : count(lowered.length, "file")}{" "}
        {by.length === 1 ? `by ${by[0]?.toFixed(1)} dB` : "as needed"}
      </SecondaryButton>
    </Flex>
  );
}
