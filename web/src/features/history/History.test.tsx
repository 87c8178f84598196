import { act, fireEvent, screen, waitFor } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { client, type Revision } from "../../api/client";
import { show } from "../../shared/testing";
import { History } from "./History";

const revision = (number: number, more: Partial<Revision> = {}): Revision =>
  ({
    id: `r${number}`,
    number,
    name: null,
    label: `Added turn ${number}`,
    created: "2026-09-14T19:42:10Z",
    is_head: false,
    ...more,
  }) as Revision;

const said = (sentence: string, step: string | null) => ({ sentence, step, made_then: true, made_now: true });

/** The history of a job, and what it asks for. */
async function history(...revisions: Revision[]) {
  const onRestore = vi.fn();
  const patch = vi
    .spyOn(client, "PATCH")
    .mockImplementation((async () => ({ data: {}, response: new Response() })) as never);
  vi.spyOn(client, "GET").mockImplementation((() => new Promise(() => {})) as never);
  const [onHear, onRestoreLine] = [vi.fn(), vi.fn()];
  const shown = show(
    <History
      job="j"
      onRestore={onRestore}
      onRestoreLine={onRestoreLine}
      onHear={onHear}
      open
      onClose={() => {}}
    />,
  );
  await act(async () => shown.queries.setQueryData(["revisions", "j"], revisions));
  type Asked = [path: string, given: { params: { path: { revision_id: string } }; body: { name: unknown } }];
  const named = () =>
    (patch.mock.calls as unknown as Asked[]).map(([, { params, body }]) => ({
      revision: params.path.revision_id,
      name: body.name,
    }));
  const tell = (key: unknown[], data: unknown) => act(async () => shown.queries.setQueryData(key, data));
  return { onRestore, onHear, onRestoreLine, named, tell };
}

it("shows where one is, and goes to any other state", async () => {
  const { onRestore } = await history(revision(2, { is_head: true }), revision(1));
  expect((await screen.findByText("current")).closest("[aria-current]")?.textContent).toContain(
    "Added turn 2",
  );
  fireEvent.click(screen.getByText("Restore"));
  expect(onRestore.mock.calls).toEqual([["r1"]]);
});

it("asks for the list each time it opens, and shows none from before", async () => {
  const answers = [[revision(1)], [revision(2), revision(1)]];
  const get = vi.spyOn(client, "GET").mockImplementation((async () => ({
    data: answers.shift(),
    response: new Response(),
  })) as never);
  const sheet = (open: boolean) => (
    <History
      job="j"
      onRestore={() => {}}
      onRestoreLine={() => {}}
      onHear={() => {}}
      open={open}
      onClose={() => {}}
    />
  );
  const { again } = show(sheet(false));
  expect(get).not.toHaveBeenCalled();
  again(sheet(true));
  expect(await screen.findByText("Added turn 1")).toBeTruthy();
  again(sheet(false));
  await waitFor(() => expect(screen.queryByText("Added turn 1")).toBeNull());
  again(sheet(true));
  expect(await screen.findByText("loading…")).toBeTruthy();
  expect(await screen.findByText("Added turn 2")).toBeTruthy();
});

it("names a checkpoint, renames it, and takes its name away", async () => {
  const { named } = await history(revision(2), revision(1, { name: "before the swap" }));
  fireEvent.click(await screen.findByText("Name…"));
  const field = () => screen.getByLabelText("Checkpoint name");
  fireEvent.change(field(), { target: { value: " after it " } });
  fireEvent.keyDown(field(), { key: "Enter" });
  fireEvent.click(screen.getByText("Rename…"));
  fireEvent.change(field(), { target: { value: "" } });
  fireEvent.blur(field());
  await waitFor(() =>
    expect(named()).toEqual([
      { revision: "r2", name: "after it" },
      { revision: "r1", name: null },
    ]),
  );
});

it("asks for nothing where a name stays what it was", async () => {
  const { named } = await history(revision(1, { name: "before the swap" }));
  fireEvent.click(await screen.findByText("Rename…"));
  fireEvent.blur(screen.getByLabelText("Checkpoint name"));
  expect(named()).toEqual([]);
  expect(screen.getByText("before the swap")).toBeTruthy();
});

it("says in words what a version changed, and what has changed since", async () => {
  const head = revision(3, { is_head: true, parent: "r2" });
  const { tell, onHear, onRestoreLine } = await history(head, revision(2, { parent: "r1" }));
  await tell(["changes", "j", "r2", null], [said("Line 1: width 1.2 → 1.5", "a")]);
  await tell(
    ["changes", "j", "r3", "r2"],
    [
      said("Line 1: width 1.5 → 1.7", "a"),
      { ...said("Line 2 added: song swap", "b"), made_then: false },
      said("sea archived", null),
    ],
  );
  const compare = screen.getAllByText("Compare").at(-1) as Element;
  fireEvent.click(compare);
  expect(screen.getByRole("group", { name: "Changed" }).textContent).toContain("Line 1: width 1.2 → 1.5");
  expect(screen.getByRole("group", { name: "Since then" }).textContent).toContain("sea archived");
  // Of what is compared with the current version, a line that made something then can be heard and restored.
  expect(screen.getAllByText("Compare by ear")).toHaveLength(1);
  fireEvent.click(screen.getByText("Compare by ear"));
  expect(onHear.mock.calls).toEqual([
    [{ revision: "r2", number: 2, step: "a", sentence: "Line 1: width 1.5 → 1.7" }],
  ]);
  fireEvent.click(screen.getByText("Restore this line"));
  expect(onRestoreLine.mock.calls).toEqual([["r2", "a"]]);
  fireEvent.click(compare);
  expect(screen.queryByRole("group", { name: "Changed" })).toBeNull();
});
