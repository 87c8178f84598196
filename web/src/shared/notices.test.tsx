import { act, screen } from "@testing-library/react";
import { expect, it } from "vitest";
import { EditCancelled } from "./editCancelled";
import { Notices, tellProblem } from "./notices";
import { show } from "./testing";

it("tells problems, but not that an edit was undone before it was sent", async () => {
  show(<Notices />);
  await act(async () => tellProblem(new EditCancelled()));
  expect(screen.queryAllByRole("alert")).toEqual([]);
  await act(async () => tellProblem(new Error("The disk is full")));
  expect((await screen.findByRole("alert")).textContent).toContain("The disk is full");
});
