import { Flex } from "@chakra-ui/react";
import { splitsMidSide } from "../../../api/turns";
import { Committed } from "../../../shared/Committed";
import { FieldGroup } from "../../../shared/fields";
import type { SettingsProps } from "./common";

export function SplitSettings({ step, turn, onChange }: SettingsProps<"split">) {
  if (step.outputs.length !== 2) return null;
  const midSide = splitsMidSide(step);
  const [left = "_L", right = "_R"] = midSide ? ["_mid", "_side"] : turn.endings;
  return (
    <FieldGroup label="Name suffixes">
      <Flex gap={2}>
        <Committed
          label={`Suffix of ${midSide ? "mid" : "left"}`}
          value={left}
          onCommit={(text) => onChange({ turn: { ...turn, endings: [text, right] } })}
        />
        <Committed
          label={`Suffix of ${midSide ? "side" : "right"}`}
          value={right}
          onCommit={(text) => onChange({ turn: { ...turn, endings: [left, text] } })}
        />
      </Flex>
    </FieldGroup>
  );
}
