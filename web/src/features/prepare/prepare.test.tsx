import { fireEvent, screen } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import type { Job } from "../../api/client";
import { job, splitStep } from "../../api/testing";
import { show } from "../../shared/testing";
import { PrepareStrip } from "./PrepareStrip";
import { QuestionPanel } from "./QuestionPanel";

const MERGE = {
  kind: "merge" as const,
  order: "by-name" as const,
  line_up: "recorded" as const,
  length: "pad" as const,
  layout: "auto" as const,
};
const FIELDS = { code: "pair", turn: MERGE, inputs: ["source:a", "source:b"], names: [] };
const QUESTION = {
  ref: "source:sea",
  code: "opposite-polarity",
  message: "Left and right are out of polarity.",
  inputs: ["source:sea"],
  remedy: {
    label: "invert right",
    turn: { kind: "polarity" as const, channels: "right" as const },
    names: [],
    followed_by: [],
    over: null,
  },
};

function strip(preparation: Job["preparation"]) {
  const handlers = { onAdd: vi.fn(), onAsk: vi.fn() };
  show(
    <PrepareStrip
      job={job([], { preparation })}
      names={
        new Map([
          ["source:a", "a"],
          ["source:b", "b"],
        ])
      }
      {...handlers}
    />,
  );
  return handlers;
}

it("adds everything that is safe at once, with its reasons, and says them first where asked", async () => {
  const { onAdd } = strip({
    safe: [{ ...FIELDS, label: "merge as a pair", reason: "They belong together." }],
    questions: [],
    untouched: [],
  });
  fireEvent.click(screen.getByText("Details…"));
  expect(await screen.findByText("a + b → merge as a pair")).toBeTruthy();
  expect(screen.getByText("They belong together.")).toBeTruthy();
  fireEvent.click(screen.getAllByText("Add 1 safe turn").at(-1) as Element);
  const { code: _, ...line } = FIELDS;
  expect(onAdd).toHaveBeenCalledWith([{ ...line, reason: "They belong together." }]);
});

it("is silent where the files need nothing", () => {
  strip({ safe: [], questions: [], untouched: ["source:a"] });
  expect(screen.queryByRole("group")).toBeNull();
});

it("offers an answer only once it can be heard", () => {
  const handlers = { onTake: vi.fn(), onDismiss: vi.fn(), onClose: vi.fn() };
  const panel = (step: ReturnType<typeof splitStep> | null) => (
    <QuestionPanel
      question={QUESTION}
      name="sea"
      number={2}
      of={5}
      step={step}
      problem={null}
      onRetry={vi.fn()}
      onBack={null}
      {...handlers}
    />
  );
  const { again } = show(panel(null));
  const take = () => screen.getByRole("button", { name: /Invert right/ }) as HTMLButtonElement;
  expect(screen.getByText("Question 2 of 5")).toBeTruthy();
  expect(take().disabled).toBe(true);
  again(panel(splitStep({ sentence: "Inverts the right channel." })));
  expect(screen.getByText("Inverts the right channel.")).toBeTruthy();
  fireEvent.click(take());
  fireEvent.click(screen.getByRole("button", { name: /Dismiss/ }));
  expect([handlers.onTake, handlers.onDismiss].map((one) => one.mock.calls.length)).toEqual([1, 1]);
});

it("says why an answer can't be tried, and tries again", () => {
  const onRetry = vi.fn();
  const handlers = { onTake: vi.fn(), onDismiss: vi.fn(), onClose: vi.fn() };
  show(
    <QuestionPanel
      question={QUESTION}
      name="sea"
      number={1}
      of={1}
      step={null}
      problem={new Error("Can’t reach Wedge Turn")}
      onRetry={onRetry}
      onBack={null}
      {...handlers}
    />,
  );
  expect(screen.getByRole("alert").textContent).toContain("Can’t reach Wedge Turn");
  fireEvent.click(screen.getByText("Try again"));
  expect(onRetry).toHaveBeenCalledOnce();
});
