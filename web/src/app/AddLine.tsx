/** What stands below the lines: the field where a turn or a recipe is added, and the recipes. */
import { Flex } from "@chakra-ui/react";
import { type RefObject, useState } from "react";
import type { Clip, Job, NewStep, Step } from "../api/client";
import { useRecipes } from "../api/queries";
import { type ApplyRecipe, Recipes, SaveRecipe } from "../features/recipes";
import { AddTurn } from "../features/turns";
import { keepsFocus, QuietButton } from "../shared/parts";
import type { SelectedRange } from "../shared/places";
import type { useLines } from "./useLines";

type Props = {
  job: Job;
  lines: ReturnType<typeof useLines>;
  step: Step | null;
  /** The files that are selected, where no line is. */
  files: Clip[];
  lookup: (refs: string[]) => Clip[];
  input: RefObject<HTMLInputElement | null>;
  selected: () => SelectedRange | null;
  onSteps: (steps: NewStep[]) => void;
  onRecipe: ApplyRecipe;
};

export function AddLine({ job, lines, step, files, lookup, input, selected, onSteps, onRecipe }: Props) {
  const recipes = useRecipes();
  const [listed, setListed] = useState(false);
  const { inserting } = lines;
  const chosen = inserting?.side === "before" ? lookup(inserting.step.inputs) : step ? step.outputs : files;
  return (
    <Flex align="center" justify="space-between" gap={3}>
      <AddTurn
        chosen={chosen}
        place={inserting && `Insert ${inserting.side} line ${inserting.line}`}
        onClose={lines.stopInserting}
        groups={job.groups}
        selected={selected}
        input={input}
        onAdd={onSteps}
        recipes={recipes.data ?? []}
        onRecipe={(recipe) =>
          onRecipe(
            recipe,
            chosen.map((clip) => clip.ref),
            "role",
          )
        }
      />
      <QuietButton {...keepsFocus} onClick={() => setListed(true)}>
        Recipes…
      </QuietButton>
      <Recipes job={job} chosen={chosen} open={listed} onClose={() => setListed(false)} onApply={onRecipe} />
      <SaveRecipe job={job} lines={lines.selected} open={lines.saving} onClose={lines.stopSaving} />
    </Flex>
  );
}
