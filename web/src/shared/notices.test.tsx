import { act, screen } from "@testing-library/react";
import { expect, it } from "vitest";
import { Notices, tellProblem } from "./notices";
import { TakenBack } from "./takenBack";
import { show } from "./testing";

it("tells problems, but not that an edit was undone before it was sent", async () => {
  show(<Notices />);
  await act(async () => tellProblem(new TakenBack()));
  expect(screen.queryAllByRole("alert")).toEqual([]);
  await act(async () => tellProblem(new Error("The disk is full")));
  expect((await screen.findByRole("alert")).textContent).toContain("The disk is full");
});
