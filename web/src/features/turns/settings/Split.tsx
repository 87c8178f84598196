import { Flex } from "@chakra-ui/react";
import { Field } from "../../../shared/parts";
import { Committed } from "../Committed";
import type { SettingsProps } from "./common";

export function SplitSettings({ step, turn, onChange }: SettingsProps<"split">) {
  if (step.outputs.length !== 2) return null;
  const [left = "_L", right = "_R"] = turn.endings;
  return (
    <Field label="Name endings">
      <Flex gap={2}>
        <Committed
          label="Ending of left"
          value={left}
          onCommit={(text) => onChange({ turn: { ...turn, endings: [text, right] } })}
        />
        <Committed
          label="Ending of right"
          value={right}
          onCommit={(text) => onChange({ turn: { ...turn, endings: [left, text] } })}
        />
      </Flex>
    </Field>
  );
}
