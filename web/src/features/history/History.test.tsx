import { act, fireEvent, screen } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import type { JobActions } from "../../api/actions";
import type { Revision } from "../../api/client";
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

async function history(...revisions: Revision[]) {
  const actions = { restore: { mutate: vi.fn() }, nameRevision: { mutate: vi.fn() } };
  const shown = show(<History job="j" actions={actions as unknown as JobActions} open onClose={() => {}} />);
  await act(async () => shown.queries.setQueryData(["revisions", "j"], revisions));
  return actions;
}

it("shows where one is, and goes to any other state", async () => {
  const { restore } = await history(revision(2, { is_head: true }), revision(1));
  expect((await screen.findByText("you are here")).closest("[aria-current]")?.textContent).toContain(
    "Added turn 2",
  );
  fireEvent.click(screen.getByText("Go here"));
  expect(restore.mutate.mock.calls.map(([id]) => id)).toEqual(["r1"]);
});

it("names a checkpoint, renames it, and takes its name away", async () => {
  const { nameRevision } = await history(revision(2), revision(1, { name: "before the swap" }));
  fireEvent.click(await screen.findByText("Name"));
  const field = () => screen.getByLabelText("Name of the checkpoint");
  fireEvent.change(field(), { target: { value: " after it " } });
  fireEvent.keyDown(field(), { key: "Enter" });
  fireEvent.click(screen.getByText("Rename"));
  fireEvent.change(field(), { target: { value: "" } });
  fireEvent.blur(field());
  expect(nameRevision.mutate.mock.calls.map(([change]) => change)).toEqual([
    { revision: "r2", name: "after it" },
    { revision: "r1", name: null },
  ]);
});

it("asks for nothing where a name stays what it was", async () => {
  const { nameRevision } = await history(revision(1, { name: "before the swap" }));
  fireEvent.click(await screen.findByText("Rename"));
  fireEvent.blur(screen.getByLabelText("Name of the checkpoint"));
  expect(nameRevision.mutate).not.toHaveBeenCalled();
  expect(screen.getByText("before the swap")).toBeTruthy();
});
