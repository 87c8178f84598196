/** What the files are called: a pattern with places to fill in, seen in the list below while it is typed. */
import { Button, Flex, Input, Text } from "@chakra-ui/react";
import { useRef } from "react";
import type { Naming } from "../../api/client";
import { Select } from "../../shared/fields";

const PLACES = ["name", "base", "suffix", "turn", "channel", "n:03", "job", "date", "rate", "depth"] as const;
const MEANING: Record<(typeof PLACES)[number], string> = {
  name: "the name in the worksheet",
  base: "the name without the suffix its turn added",
  suffix: "the suffix its turn added, such as _L",
  turn: "what was done",
  channel: "the name of the channel, of a mono file",
  "n:03": "file number, three digits",
  job: "the name of the job",
  date: "delivery date",
  rate: "the sample rate in kHz",
  depth: "the bit depth",
};
const CASES: readonly (readonly [Naming["case"], string])[] = [
  ["keep", "Keep case"],
  ["lower", "Lower case"],
  ["upper", "Upper case"],
];
const SPACES: readonly (readonly [Naming["spaces"], string])[] = [
  ["keep", "Keep spaces"],
  ["underscore", "_ for spaces"],
  ["hyphen", "- for spaces"],
  ["none", "No spaces"],
];

export function NameChoice({ naming, onNaming }: { naming: Naming; onNaming: (naming: Naming) => void }) {
  const field = useRef<HTMLInputElement>(null);
  /** At the cursor, which stands after it then. */
  const insert = (place: string) => {
    const input = field.current;
    if (!input) return;
    const { selectionStart, selectionEnd, value } = input;
    const from = selectionStart ?? value.length;
    const pattern = `${value.slice(0, from)}{${place}}${value.slice(selectionEnd ?? from)}`;
    onNaming({ ...naming, pattern });
    requestAnimationFrame(() => {
      input.focus();
      input.setSelectionRange(from + place.length + 2, from + place.length + 2);
    });
  };
  return (
    <Flex direction="column" gap={2} mb={4}>
      <Flex columnGap={3} rowGap={1} align="center" wrap={{ base: "wrap", md: "nowrap" }}>
        <Text layerStyle="quiet" flexShrink={0} w={{ base: "full", md: "7rem" }}>
          File names
        </Text>
        <Input
          ref={field}
          size="sm"
          maxLength={200}
          textStyle="mono"
          aria-label="File name pattern"
          value={naming.pattern}
          onChange={(event) => onNaming({ ...naming, pattern: event.target.value })}
        />
        <Flex gap={2} flexShrink={0}>
          <Select
            label="Letter case"
            value={naming.case}
            options={CASES}
            onChange={(value) => onNaming({ ...naming, case: value })}
            size="sm"
            width="8.5rem"
          />
          <Select
            label="Spaces in the names"
            value={naming.spaces}
            options={SPACES}
            onChange={(spaces) => onNaming({ ...naming, spaces })}
            size="sm"
            width="9.5rem"
          />
        </Flex>
      </Flex>
      <Flex gap={1} ml={{ md: "7.75rem" }} wrap="wrap" role="group" aria-label="Insert into the names">
        {PLACES.map((place) => (
          <Button
            key={place}
            size="2xs"
            variant="outline"
            textStyle="figure"
            title={MEANING[place]}
            onClick={() => insert(place)}
          >
            {`{${place}}`}
          </Button>
        ))}
      </Flex>
    </Flex>
  );
}
