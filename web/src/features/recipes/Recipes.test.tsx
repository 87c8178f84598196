import { act, fireEvent, screen, waitFor } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { client, type Recipe } from "../../api/client";
import { clip, job as jobOf, source } from "../../api/testing";
import { show } from "../../shared/testing";
import { Recipes } from "./Recipes";
import { SaveRecipe } from "./SaveRecipe";

const recipe = (name: string, more: Partial<Recipe> = {}): Recipe => ({
  id: name,
  name,
  created: "2026-09-14T19:42:10Z",
  roles: ["left", "right"],
  lines: ["merge", "swap", "swap"],
  problem: null,
  ...more,
});

const job = jobOf([], { sources: ["kit_L", "kit_R", "bell"].map((name) => source(name)) });

/** What the page asks the server for, and its answers by the end of the path. */
function server(answers: Record<string, unknown>) {
  const answer = (async (path: string, given: unknown) => {
    asked.push([path, given]);
    const [, data] = Object.entries(answers).find(([end]) => path.endsWith(end)) ?? [];
    return { data, response: new Response(null, { status: 200 }) };
  }) as never;
  const asked: [string, unknown][] = [];
  for (const method of ["GET", "POST", "PATCH", "DELETE"] as const)
    vi.spyOn(client, method).mockImplementation(answer);
  return asked;
}

it("shows which files a recipe takes before it is applied", async () => {
  const asked = server({
    "/recipes": [recipe("Pair")],
    match: { times: [["source:kit_L", "source:kit_R"]], left_over: ["source:bell"] },
  });
  const onApply = vi.fn();
  show(<Recipes job={job} chosen={[]} open onClose={() => {}} onApply={onApply} />);
  expect(await screen.findByText("merge, 2 × swap · needs left, right")).toBeTruthy();
  fireEvent.click(screen.getByText("Apply"));
  expect(await screen.findByText(/left: kit_L · right: kit_R/)).toBeTruthy();
  expect(screen.getByText("1 file left over")).toBeTruthy();
  fireEvent.click(screen.getAllByText("Apply").at(-1) as HTMLElement);
  const refs = ["source:kit_L", "source:kit_R", "source:bell"];
  expect(onApply.mock.calls).toEqual([["Pair", refs, "role"]]);
  expect(asked.at(-1)?.[1]).toMatchObject({ body: { by: "role", recipe: "Pair", refs } });
});

it("says why a recipe can't be applied, and applies it to what is selected", async () => {
  vi.spyOn(client, "GET").mockImplementation((async () => ({
    data: [recipe("Pair")],
    response: new Response(null, { status: 200 }),
  })) as never);
  const post = vi.spyOn(client, "POST").mockImplementation((async () => ({
    error: { code: "turn-input", message: "Nothing selected fits “Pair”", help: "" },
    response: new Response(null, { status: 422 }),
  })) as never);
  show(<Recipes job={job} chosen={[clip("bell")]} open onClose={() => {}} onApply={() => {}} />);
  fireEvent.click(await screen.findByText("Apply"));
  expect((await screen.findByRole("alert")).textContent).toBe("Nothing selected fits “Pair”");
  expect((screen.getAllByText("Apply").at(-1) as HTMLButtonElement).closest("button")?.disabled).toBe(true);
  expect(post.mock.calls[0]?.[1]).toMatchObject({ body: { refs: ["source:bell"] } });
});

it("renames and deletes, and lists one that can't be read as that", async () => {
  const asked = server({
    "/recipes": [recipe("Pair"), recipe("Later", { problem: "This version can't read it" })],
  });
  show(<Recipes job={job} chosen={[]} open onClose={() => {}} onApply={() => {}} />);
  expect(await screen.findByText("This version can't read it")).toBeTruthy();
  fireEvent.click(screen.getByText("Rename…"));
  fireEvent.change(screen.getByLabelText("Recipe name"), { target: { value: "Both" } });
  fireEvent.keyDown(screen.getByLabelText("Recipe name"), { key: "Enter" });
  await waitFor(() =>
    expect(asked.some(([, given]) => JSON.stringify(given ?? null).includes("Both"))).toBe(true),
  );
  fireEvent.click(screen.getAllByText("Delete")[0] as HTMLElement);
  expect(await screen.findByText("Delete “Pair”?")).toBeTruthy();
  fireEvent.click(screen.getAllByText("Delete").at(-1) as HTMLElement);
  await waitFor(() =>
    expect(
      asked.some(
        ([path, given]) => path.endsWith("{recipe_id}") && !(given as { body?: unknown } | undefined)?.body,
      ),
    ).toBe(true),
  );
});

it("imports a file, and refuses what is no JSON", async () => {
  const asked = server({ "/recipes": [], import: recipe("Pair") });
  show(<Recipes job={job} chosen={[]} open onClose={() => {}} onApply={() => {}} />);
  expect(await screen.findByText("No recipes yet.")).toBeTruthy();
  const give = async (text: string) =>
    act(async () => {
      fireEvent.change(screen.getByLabelText("Recipe file"), {
        target: { files: [new File([text], "pair.json")] },
      });
    });
  await give("{");
  await give('{"format": "wedge-turn-recipe"}');
  await waitFor(() =>
    expect(asked.filter(([path]) => path.endsWith("import")).map(([, given]) => given)).toEqual([
      { body: { format: "wedge-turn-recipe" } },
    ]),
  );
});

it("saves the selected lines under a name", async () => {
  const asked = server({ "/recipes": recipe("Pair") });
  const onClose = vi.fn();
  show(<SaveRecipe job={job} lines={["a", "b"]} open onClose={onClose} />);
  expect(await screen.findByText("Save 2 lines as a recipe")).toBeTruthy();
  const save = () => screen.getByText("Save").closest("button") as HTMLButtonElement;
  expect(save().disabled).toBe(true);
  fireEvent.change(screen.getByLabelText("Recipe name"), { target: { value: " Pair " } });
  fireEvent.submit(screen.getByLabelText("Recipe name").closest("form") as HTMLFormElement);
  await waitFor(() => expect(onClose).toHaveBeenCalled());
  expect(asked[0]).toEqual([
    "/api/recipes",
    { body: { job: job.id, revision: job.head, steps: ["a", "b"], name: "Pair" } },
  ]);
});
