/** Which files a recipe takes, seen before it is applied. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { Clip, Job, Matching, Recipe } from "../../api/client";
import { useRecipeMatch } from "../../api/queries";
import { Choices } from "../../shared/choices";
import { Select } from "../../shared/fields";
import { count } from "../../shared/format";
import { PrimaryButton } from "../../shared/parts";

export type ApplyRecipe = (recipe: string, refs: string[], by: Matching) => void;

const BY: readonly { value: Matching; text: string; tip: string }[] = [
  { value: "role", text: "By role", tip: "What a file’s name says, such as _L and _R, decides its role" },
  { value: "name", text: "By name", tip: "Files with the names that the recipe was saved from" },
  { value: "order", text: "In order", tip: "The selected files in their order, whatever they are called" },
];
/** Of many, the first are shown. */
const SHOWN = 8;

type Props = { job: Job; recipe: Recipe; chosen: readonly Clip[]; onApply: ApplyRecipe };

export function Apply({ job, recipe, chosen, onApply }: Props) {
  const [to, setTo] = useState<"chosen" | "all">(chosen.length > 0 ? "chosen" : "all");
  const [by, setBy] = useState<Matching>("role");
  const files = job.sources.filter((source) => !source.archived);
  const clips: readonly Clip[] = to === "chosen" ? chosen : files;
  const refs = clips.map((clip) => clip.ref);
  const match = useRecipeMatch(job, recipe.id, refs, by);
  const names = new Map(clips.map((clip) => [clip.ref, clip.name]));
  const times = match.data?.times ?? [];
  return (
    <Box layerStyle="panel" p={3} role="group" aria-label={`Apply ${recipe.name}`}>
      <Flex gap={3} align="center" mb={2} wrap="wrap">
        <Select
          label="To which files"
          value={to}
          options={[
            ...(chosen.length ? [["chosen", `the selected ${count(chosen.length, "file")}`] as const] : []),
            ["all", `all ${count(files.length, "file")} of this job`] as const,
          ]}
          onChange={setTo}
          width="15rem"
        />
        <Choices label="Which file takes which role" value={by} options={BY} onChange={setBy} />
      </Flex>
      {refs.length === 0 && <Text layerStyle="quiet">Add files to this job first.</Text>}
      {match.error && (
        <Text layerStyle="danger" role="alert">
          {match.error.message}
        </Text>
      )}
      {times.slice(0, SHOWN).map((files) => (
        <Text textStyle="small" key={files.join()} truncate>
          {recipe.roles.map((role, n) => `${role}: ${names.get(files[n] ?? "")}`).join(" · ")}
        </Text>
      ))}
      {times.length > SHOWN && <Text textStyle="small">and {times.length - SHOWN} more</Text>}
      {match.data && match.data.left_over.length > 0 && (
        <Text layerStyle="note">{count(match.data.left_over.length, "file")} left over</Text>
      )}
      <PrimaryButton mt={2} disabled={!times.length} onClick={() => onApply(recipe.id, refs, by)}>
        {times.length > 1 ? `Apply ${times.length} times` : "Apply"}
      </PrimaryButton>
    </Box>
  );
}
