/** The recipes of every job: one is applied to files here, and they are renamed, exported, imported and deleted. */
import { Flex, Text } from "@chakra-ui/react";
import { type ChangeEvent, useRef, useState } from "react";
import { useRecipeActions } from "../../api/actions";
import type { Clip, Job, Recipe } from "../../api/client";
import { useRecipes } from "../../api/queries";
import { Failed } from "../../shared/Failed";
import { NameField } from "../../shared/NameField";
import { tellProblem } from "../../shared/notices";
import { PrimaryButton, QuietButton } from "../../shared/parts";
import { Sheet } from "../../shared/Sheet";
import { Apply, type ApplyRecipe } from "./Apply";

type Props = {
  job: Job;
  /** What is selected. */
  chosen: readonly Clip[];
  open: boolean;
  onClose: () => void;
  onApply: ApplyRecipe;
};

export function Recipes({ job, chosen, open, onClose, onApply }: Props) {
  const recipes = useRecipes();
  const { importOne, remove } = useRecipeActions();
  const [shown, setShown] = useState<string | null>(null);
  const [deleting, setDeleting] = useState<Recipe | null>(null);
  const file = useRef<HTMLInputElement>(null);
  const read = async (event: ChangeEvent<HTMLInputElement>) => {
    const [given] = event.target.files ?? [];
    event.target.value = "";
    if (!given) return;
    const recipe = await given.text().then(parsed);
    if (recipe) importOne.mutate(recipe, { onError: tellProblem, onSuccess: ({ id }) => setShown(id) });
    else tellProblem(new Error(`${given.name} is not a recipe: it is not JSON`));
  };
  return (
    <Sheet
      title="Recipes"
      open={open}
      onClose={onClose}
      footer={<QuietButton onClick={() => file.current?.click()}>Import…</QuietButton>}
    >
      <Text layerStyle="quiet" mb={3}>
        Turns saved without their files. To save some, select lines of the worksheet and choose Save as
        recipe… in the line’s menu.
      </Text>
      <input
        ref={file}
        type="file"
        hidden
        accept=".json,application/json"
        aria-label="Recipe file"
        onChange={(event) => void read(event)}
      />
      {recipes.isPending && <Text layerStyle="quiet">loading…</Text>}
      {recipes.isError && !recipes.data && (
        <Failed what="The recipes could not be loaded." onRetry={() => void recipes.refetch()} />
      )}
      {recipes.data?.length === 0 && <Text>No recipes yet.</Text>}
      {recipes.data?.map((recipe) => (
        <Flex key={recipe.id} direction="column" layerStyle="row" gap={2}>
          <Line
            recipe={recipe}
            shown={shown === recipe.id}
            onShow={() => setShown(shown === recipe.id ? null : recipe.id)}
            onDelete={() => setDeleting(recipe)}
          />
          {shown === recipe.id && (
            <Apply
              job={job}
              recipe={recipe}
              chosen={chosen}
              onApply={(...asked) => {
                onApply(...asked);
                onClose();
              }}
            />
          )}
        </Flex>
      ))}
      <Sheet
        alert
        title={`Delete “${deleting?.name}”?`}
        open={deleting !== null}
        onClose={() => setDeleting(null)}
        footer={
          <>
            <QuietButton onClick={() => setDeleting(null)}>Cancel</QuietButton>
            <PrimaryButton
              onClick={() => {
                if (deleting) remove.mutate(deleting.id, { onError: tellProblem });
                setDeleting(null);
              }}
            >
              Delete
            </PrimaryButton>
          </>
        }
      >
        Lines it added stay in their jobs. This can’t be undone: export the recipe first to keep a copy.
      </Sheet>
    </Sheet>
  );
}

function parsed(text: string): Record<string, unknown> | null {
  try {
    const value: unknown = JSON.parse(text);
    return typeof value === "object" ? (value as Record<string, unknown> | null) : null;
  } catch {
    return null;
  }
}

type LineProps = { recipe: Recipe; shown: boolean; onShow: () => void; onDelete: () => void };

function Line({ recipe, shown, onShow, onDelete }: LineProps) {
  const { rename } = useRecipeActions();
  const [naming, setNaming] = useState(false);
  return (
    <Flex align="center" gap={2}>
      <Flex direction="column" flex={1} minW={0}>
        {naming ? (
          <NameField
            label="Recipe name"
            value={recipe.name}
            onKeep={(name) => {
              setNaming(false);
              if (name && name !== recipe.name)
                rename.mutate({ id: recipe.id, name }, { onError: tellProblem });
            }}
          />
        ) : (
          <Text textStyle="strong" truncate>
            {recipe.name}
          </Text>
        )}
        <Text textStyle="small" layerStyle={recipe.problem ? "danger" : "quiet"} truncate>
          {recipe.problem ?? `${inWords(recipe.lines)} · needs ${recipe.roles.join(", ")}`}
        </Text>
      </Flex>
      {!recipe.problem && (
        <>
          <QuietButton aria-expanded={shown} _expanded={{ bg: "raised.high", color: "fg" }} onClick={onShow}>
            Apply
          </QuietButton>
          <QuietButton onClick={() => setNaming(true)}>Rename…</QuietButton>
          <QuietButton asChild>
            <a href={`/api/recipes/${recipe.id}`} download>
              Export
            </a>
          </QuietButton>
        </>
      )}
      <QuietButton onClick={onDelete}>Delete</QuietButton>
    </Flex>
  );
}

/** Turns one after the other; those that follow each other and are the same, once with their number. */
function inWords(lines: readonly string[]) {
  const counts: { line: string; times: number }[] = [];
  for (const line of lines) {
    const last = counts.at(-1);
    if (last?.line === line) last.times += 1;
    else counts.push({ line, times: 1 });
  }
  return counts.map(({ line, times }) => (times > 1 ? `${times} × ${line}` : line)).join(", ");
}
