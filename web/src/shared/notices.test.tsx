import { act, screen } from "@testing-library/react";
import { expect, it } from "vitest";
import { EditCancelled } from "./editCancelled";
import { Notices, tellProblem } from "./notices";
import { show } from "./testing";

it("tells problems, but not that an edit was undone before it was sent", async () => {
  show(<Notices />);
  const told = () => screen.queryAllByRole("alert").map((alert) => alert.textContent ?? "");
  const before = told(); // notices outlive the page that told them
  await act(async () => tellProblem(new EditCancelled()));
  expect(told()).toEqual(before);
  await act(async () => tellProblem(new Error("The disk is full")));
  expect(await screen.findByText("The disk is full")).toBeTruthy();
});
