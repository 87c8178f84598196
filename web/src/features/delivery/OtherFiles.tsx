/** Files that no line uses: all of them go along as they are, some, or none. */
import { Checkbox, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { Source } from "../../api/client";
import { Toggle } from "../../shared/fields";
import { count } from "../../shared/format";
import { LongList } from "../../shared/LongList";
import { QuietButton } from "../../shared/parts";
import { Choice } from "./Choice";

type Props = {
  unused: Source[];
  /** The references of those that go along. */
  chosen: string[];
  onChosen: (refs: string[]) => void;
};

export function OtherFiles({ unused, chosen, onChosen }: Props) {
  const [listed, setListed] = useState(false);
  if (unused.length === 0) return null;
  const along = new Set(chosen);
  const some = chosen.length > 0 && chosen.length < unused.length;
  const toggle = (ref: string) =>
    onChosen(unused.map((one) => one.ref).filter((one) => (one === ref) !== along.has(one)));
  return (
    <>
      <Choice label="Other files">
        <Toggle
          label={`Include ${count(unused.length, "file")} not used by any line, copied byte for byte`}
          on={chosen.length === unused.length}
          onChange={(all) => onChosen(all ? unused.map((one) => one.ref) : [])}
        />
        {some && <Text layerStyle="quiet">{chosen.length} chosen</Text>}
        <QuietButton aria-expanded={listed} onClick={() => setListed(!listed)}>
          Choose…
        </QuietButton>
      </Choice>
      {listed && (
        <LongList
          rows={unused}
          keyOf={({ ref }) => ref}
          estimate={29}
          ml={{ md: "7.75rem" }}
          mb={3}
          maxH="14rem"
          role="group"
          aria-label="Other files"
        >
          {(one) => (
            <Flex py={1}>
              <Checkbox.Root checked={along.has(one.ref)} onCheckedChange={() => toggle(one.ref)}>
                <Checkbox.HiddenInput />
                <Checkbox.Control />
                <Checkbox.Label>
                  {one.folder && `${one.folder}/`}
                  {one.file}
                </Checkbox.Label>
              </Checkbox.Root>
            </Flex>
          )}
        </LongList>
      )}
    </>
  );
}
