import { screen } from "@testing-library/react";
import { expect, it } from "vitest";
import { Name } from "./Name";
import { show } from "./testing";

it("keeps a long name whole for who reads it aloud, and its end in sight", () => {
  show(<Name>kettle_island_light_harbour_wall_take_07</Name>);
  expect(screen.getByText("kettle_island_light_harbour_wall_take_07")).toBeTruthy();
  expect(screen.getByText("ll_take_07").getAttribute("aria-hidden")).toBe("true");
  show(<Name>lamp-bell_L</Name>);
  expect(screen.getByText("lamp-bell_L")).toBeTruthy();
});
