import { act, screen } from "@testing-library/react";
import { expect, it } from "vitest";
import { Notices, tellProblem } from "./notices";
import { show } from "./testing";

it("tells problems", async () => {
  show(<Notices />);
  await act(async () => tellProblem(new Error("The disk is full")));
  expect(await screen.findByText("The disk is full")).toBeTruthy();
});
