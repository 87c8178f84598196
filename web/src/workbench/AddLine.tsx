/** What stands below the lines: the field where a turn or a recipe is added, and the recipes. */
import { Flex } from "@chakra-ui/react";
import { useMemo, useState } from "react";
import { useRecipes } from "../api/queries";
import { Recipes, SaveRecipe } from "../features/recipes";
import { AddTurn } from "../features/turns";
import { keepsFocus, QuietButton } from "../shared/parts";
import { useBench, useSelectedLines, useWorkbench } from "./useWorkbench";
import { clipsOf, shownJob, shownStep } from "./view";

export function AddLine() {
  const bench = useBench();
  const job = useWorkbench(shownJob);
  const step = useWorkbench(shownStep);
  const files = useWorkbench((state) => state.files);
  const inserting = useWorkbench((state) => state.inserting);
  const saving = useWorkbench((state) => state.dialog === "recipe");
  const lines = useSelectedLines();
  const recipes = useRecipes();
  const [listed, setListed] = useState(false);
  const chosen = useMemo(() => {
    const clips = clipsOf(job);
    if (step && inserting !== "before") return step.outputs;
    return (step?.inputs ?? files).flatMap((ref) => clips.get(ref) ?? []);
  }, [job, step, files, inserting]);
  const refs = chosen.map((clip) => clip.ref);
  const number = step ? job.steps.indexOf(step) + 1 : 0;
  return (
    <Flex align="center" justify="space-between" gap={3}>
      <AddTurn
        chosen={chosen}
        place={inserting && `Insert ${inserting} line ${number}`}
        onClose={() => bench.stopInserting()}
        onDone={() => bench.focus.returnFocus()}
        groups={job.groups}
        selected={() => bench.session.selected}
        input={bench.focus.setField("turn")}
        onAdd={(steps) => void bench.add(steps)}
        recipes={recipes.data ?? []}
        onRecipe={(recipe) => bench.applyRecipe(recipe, refs, "role")}
      />
      <QuietButton {...keepsFocus} onClick={() => setListed(true)}>
        Recipes…
      </QuietButton>
      <Recipes
        job={job}
        chosen={chosen}
        open={listed}
        onClose={() => setListed(false)}
        onApply={(recipe, refs, by) => bench.applyRecipe(recipe, refs, by)}
      />
      <SaveRecipe job={job} lines={lines} open={saving} onClose={() => bench.openDialog(null)} />
    </Flex>
  );
}
