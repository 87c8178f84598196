import { act, screen } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { createStore } from "zustand/vanilla";
import { findingOf, job, mergeStep, source, splitStep } from "../api/testing";
import { endedDelivery } from "../model/events";
import type { Worksheet, WorksheetState } from "../model/worksheet";
import { Announcer } from "../shared/announce";
import * as notices from "../shared/notices";
import { show } from "../shared/testing";
import { changes, useSpokenChanges, useSpokenDeliveries } from "./spoken";
import type { WorkbenchStore } from "./store";

it("tells what was added, changed and removed", () => {
  const before = job([mergeStep()]);
  expect(changes(before, before)).toBe("");
  expect(changes(before, job([mergeStep(), splitStep()]))).toBe(
    "Turn added. Each channel of sea becomes a mono file.",
  );
  expect(changes(before, job([mergeStep({ sentence: "bell_R goes fully left." })]))).toBe(
    "bell_R goes fully left.",
  );
  expect(changes(before, job([]))).toBe("Turn removed. bell_L goes fully left and bell_R fully right.");
  const many = ["a", "b", "c"].map((id) => splitStep({ id }));
  expect(changes(before, job([mergeStep(), ...many]))).toBe("3 turns added.");
});

it("tells of files and of what was found in them", () => {
  const of = (...sources: ReturnType<typeof source>[]) => job([], { sources });
  const before = of(source("sea"));
  expect(changes(before, of(source("sea"), source("bell")))).toBe("1 file added.");
  expect(changes(before, of(source("sea", 1, { archived: true })))).toBe("1 file archived.");
  expect(changes(before, of())).toBe("1 file deleted.");
  const reported = source("sea", 1, { findings: [findingOf("late")] });
  expect(changes(before, of(reported))).toBe("About late.");
  expect(changes(of(reported), of(reported))).toBe("");
});

it("says a change once, where it rests", async () => {
  vi.useFakeTimers();
  const store = createStore(() => ({ job: job([]) }) as WorksheetState);
  function Page() {
    useSpokenChanges({ store } as Worksheet);
    return <Announcer />;
  }
  show(<Page />);
  const said = () => screen.getByTestId("announced").textContent;
  act(() => store.setState({ job: job([mergeStep()]) }));
  act(() => store.setState({ job: job([mergeStep(), splitStep()]) }));
  expect(said()).toBe("");
  await act(async () => vi.advanceTimersByTime(1_000));
  expect(said()).toContain("Each channel of sea becomes a mono file.");
  vi.useRealTimers();
});

it("says that a delivery of the job has ended, by a notice too where another screen is shown", () => {
  const told = vi.spyOn(notices, "tell").mockImplementation(() => {});
  const state = { job: job([]), screen: "worksheet" };
  const bench = { state, store: { getState: () => state } } as unknown as WorkbenchStore;
  function Page() {
    useSpokenDeliveries(bench);
    return <Announcer />;
  }
  show(<Page />);
  const said = () => screen.getByTestId("announced").textContent;
  const ends = (of: string, how: "done" | "failed") =>
    act(() => endedDelivery.setState({ last: { job: of, delivery: "d", state: how, files: 3 } }));
  ends("another job", "done");
  expect(said()).not.toContain("Delivery");
  ends("j", "done");
  expect(said()).toBe("Delivery finished. 3 files written and proved.");
  state.screen = "delivery";
  ends("j", "failed");
  expect(said()).toBe("The delivery failed. ");
  expect(told.mock.calls).toEqual([["Delivery finished", "3 files written and proved."]]);
});
