import { act, fireEvent, screen } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { client, type JobSummary } from "../../api/client";
import { show } from "../../shared/testing";
import { Jobs } from "./Jobs";

const summary = (name: string): JobSummary => ({
  id: name,
  name,
  created: "2026-09-14T19:42:10Z",
  files: 0,
  turns: 0,
});

const answered = (data: unknown) => ({ data, response: new Response(null, { status: 200 }) });

it("shows a new job although the list that was asked before it arrives after it", async () => {
  let arrive = (_: unknown) => {};
  const late = new Promise((resolve) => {
    arrive = resolve;
  });
  vi.spyOn(client, "GET")
    .mockReturnValueOnce(late as never)
    .mockResolvedValue(answered([summary("Lamp")]) as never);
  vi.spyOn(client, "POST").mockResolvedValue(answered(summary("Lamp")) as never);
  show(<Jobs />);
  fireEvent.change(screen.getByLabelText("Job name"), { target: { value: "Lamp" } });
  fireEvent.click(screen.getByText("New job"));
  await vi.waitFor(() => expect(client.POST).toHaveBeenCalled());
  await act(async () => arrive(answered([])));
  expect(await screen.findByText("Lamp")).toBeTruthy();
});

it("shows how far the demo is where the server makes it by itself", async () => {
  const states = [
    { state: "making", progress: 0.25, job: null },
    { state: "ready", progress: 1, job: "demo" },
  ];
  vi.spyOn(client, "GET").mockImplementation(((path: string) =>
    Promise.resolve(
      answered(path === "/api/demo" ? (states.length > 1 ? states.shift() : states[0]) : []),
    )) as never);
  show(<Jobs />);
  const bar = await screen.findByLabelText("Progress of the demo");
  expect(bar.closest("[role=status]")?.textContent).toContain("Making the demo’s files…");
  expect(await screen.findByText("Open the demo job", {}, { timeout: 3000 })).toBeTruthy();
});
