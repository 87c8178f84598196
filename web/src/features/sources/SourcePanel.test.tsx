import { fireEvent, screen } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { findingOf, job, source } from "../../api/testing";
import { show } from "../../shared/testing";
import { SourcePanel } from "./SourcePanel";

function panel(more: Parameters<typeof source>[2]) {
  const shown = source("gull", 2, more);
  const calls = { onSteps: vi.fn(), onArchive: vi.fn(), onPair: vi.fn(), onDelete: vi.fn() };
  vi.stubGlobal("fetch", () => new Promise(() => {}));
  show(<SourcePanel job={job([], { sources: [shown] })} source={shown} {...calls} />);
  return calls;
}

it("says why a file cannot be used, beside what was found about it before", () => {
  panel({ problem: "gull.wav is missing from the data folder", findings: [findingOf("delay")] });
  expect(screen.getByRole("alert").textContent).toBe("gull.wav is missing from the data folder");
  expect(screen.getByText("About delay.")).toBeTruthy();
});

it("deletes for good only what was put aside, and only after asking", async () => {
  panel({});
  expect(screen.queryByRole("button", { name: "Delete permanently" })).toBeNull();
  const { onDelete } = panel({ archived: true });
  fireEvent.click(screen.getByRole("button", { name: "Delete permanently" }));
  expect(onDelete).not.toHaveBeenCalled();
  fireEvent.click(await screen.findByRole("button", { name: "Delete" }));
  expect(onDelete).toHaveBeenCalledWith("gull");
});
