import { fireEvent, screen, within } from "@testing-library/react";
import { expect, it } from "vitest";
import { show } from "../../shared/testing";
import { Guide } from "./Guide";
import { matching, PAGES, pictureAt } from "./pages";

it("has seventeen tasks, each with a picture that is there, and says what can go wrong", () => {
  expect(PAGES).toHaveLength(17);
  for (const { id, title, text } of PAGES) {
    expect(title, id).not.toBe("");
    for (const part of ["## What to do", "## What to look at", "## What can go wrong"])
      expect(text, id).toContain(part);
    const picture = /!\[[^\]]+\]\(([^)]+)\)/.exec(text)?.[1] ?? "";
    expect(pictureAt(picture), id).not.toBe(picture);
  }
});

it("finds pages by all the words that are typed", () => {
  expect(matching("vocal reverb").map(({ id }) => id)).toEqual(["voice"]);
  expect(matching("")).toHaveLength(17);
  show(<Guide />);
  const pages = within(screen.getByRole("navigation"));
  expect(pages.getAllByRole("link")).toHaveLength(17);
  fireEvent.change(screen.getByLabelText("Search the guide"), { target: { value: "decode" } });
  expect(pages.getAllByRole("link").length).toBeLessThan(12);
  fireEvent.change(screen.getByLabelText("Search the guide"), { target: { value: "trombone" } });
  expect(screen.getByText("Nothing about “trombone”.")).toBeTruthy();
});

it("shows a page with its picture", () => {
  show(<Guide />);
  expect(screen.getByRole("heading", { level: 1 }).textContent).toBe(PAGES[0]?.title);
  expect(screen.getByRole("img").getAttribute("src")).toContain("question");
  expect(screen.getByRole("heading", { name: "What can go wrong" })).toBeTruthy();
});
