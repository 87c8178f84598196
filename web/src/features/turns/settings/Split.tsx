import { Flex } from "@chakra-ui/react";
import { splitsMidSide } from "../../../api/turns";
import { Committed } from "../../../shared/Committed";
import { FieldGroup, SelectField } from "../../../shared/fields";
import type { SettingsProps } from "./common";

export function SplitSettings(props: SettingsProps<"split">) {
  return props.step.matrix.length === 2 ? <Suffixes {...props} /> : <Parts {...props} />;
}

function Suffixes({ step, turn, onChange }: SettingsProps<"split">) {
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

/** How many channels each result takes: one, two, or as many as a line was made with. */
function Parts({ step, turn, onChange }: SettingsProps<"split">) {
  const count = step.matrix.length;
  const now = turn.parts.join(",");
  const pairs = count % 2 ? null : Array<number>(count / 2).fill(2);
  const options: [string, string][] = [["", "Mono files"]];
  if (pairs) options.push([pairs.join(","), "Stereo pairs (1–2, 3–4 …)"]);
  if (!options.some(([parts]) => parts === now))
    options.push([now, `files of ${now.replaceAll(",", ", ")} channels`]);
  return (
    <SelectField
      label="Split to"
      value={now}
      options={options}
      onChange={(parts) =>
        onChange({ turn: { ...turn, parts: parts ? parts.split(",").map(Number) : [] }, names: [] })
      }
    />
  );
}
