/** Selected lines are saved as a recipe under a name. */
import { Input, Text } from "@chakra-ui/react";
import { type FormEvent, useState } from "react";
import { useRecipeActions } from "../../api/actions";
import type { Job } from "../../api/client";
import { count } from "../../shared/format";
import { tell, tellProblem } from "../../shared/notices";
import { PrimaryButton, QuietButton } from "../../shared/parts";
import { Sheet } from "../../shared/Sheet";

type Props = { job: Job; lines: readonly string[]; open: boolean; onClose: () => void };

export function SaveRecipe({ job, lines, open, onClose }: Props) {
  const [name, setName] = useState("");
  const { save } = useRecipeActions();
  const close = () => {
    setName("");
    onClose();
  };
  const keep = (event: FormEvent) => {
    event.preventDefault();
    if (!name.trim()) return;
    save.mutate(
      { job: job.id, revision: job.head, steps: [...lines], name: name.trim() },
      {
        onSuccess: (recipe) => {
          tell(`Saved “${recipe.name}”`, "It is under Recipes in every job.");
          close();
        },
        onError: tellProblem,
      },
    );
  };
  return (
    <Sheet
      title={`Save ${count(lines.length, "line")} as a recipe`}
      open={open}
      onClose={close}
      footer={
        <>
          <QuietButton onClick={close}>Cancel</QuietButton>
          <PrimaryButton type="submit" form="save-recipe" loading={save.isPending} disabled={!name.trim()}>
            Save
          </PrimaryButton>
        </>
      }
    >
      <form id="save-recipe" onSubmit={keep}>
        <Text layerStyle="quiet" mb={3}>
          The turns are saved with their settings and without their files, to be applied to others in any job.
        </Text>
        <Input
          autoFocus
          size="sm"
          value={name}
          maxLength={200}
          placeholder="Recipe name"
          aria-label="Recipe name"
          onChange={(event) => setName(event.target.value)}
        />
      </form>
    </Sheet>
  );
}
