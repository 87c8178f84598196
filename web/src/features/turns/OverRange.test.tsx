import { fireEvent, screen } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import type { Step } from "../../api/client";
import { clip, splitStep } from "../../api/testing";
import type { SelectedRange } from "../../shared/places";
import { show } from "../../shared/testing";
import { OverRange } from "./OverRange";
import { Place } from "./useInputMeasures";

function range(over: Step["over"], selected: SelectedRange | null) {
  const onChange = vi.fn();
  const step = splitStep({ outputs: [clip("sea", 2)], over, takes_place: true });
  const place = {
    job: "j",
    revision: "r",
    keyOf: (ref: string) => ref,
    selected: () => selected,
    playhead: () => 0,
    files: [],
    insertBefore: () => {},
  };
  show(
    <Place value={place}>
      <OverRange step={step} onChange={onChange} />
    </Place>,
  );
  return { changed: () => onChange.mock.calls.at(-1)?.[0], onChange };
}
const enter = (label: string, value: string) => {
  fireEvent.change(screen.getByLabelText(label), { target: { value } });
  fireEvent.blur(screen.getByLabelText(label));
};

it("limits a turn to the range that is selected", () => {
  const { changed } = range(null, { start: 480, end: 960, rate: 48_000, startTime: null });
  fireEvent.click(screen.getByText("Limit to selection"));
  expect(changed()).toEqual({ over: { start: "480s", end: "960s", fade_ms: 10 } });
});

it("says that a range has to be selected first", () => {
  const { onChange } = range(null, null);
  fireEvent.click(screen.getByText("Limit to selection"));
  expect(screen.getByRole("alert").textContent).toBe("Select a range on the waveform first.");
  expect(onChange).not.toHaveBeenCalled();
});

it("takes what is typed, refuses a range that ends before it starts, and goes back to all of it", () => {
  const { changed, onChange } = range({ start: "48000s", end: "end", fade_ms: 10 }, null);
  enter("Range to", "2.5");
  expect(changed()).toEqual({ over: { start: "48000s", end: 2.5, fade_ms: 10 } });
  enter("Fades of the range in milliseconds", "25");
  expect(changed().over.fade_ms).toBe(25);
  enter("Range to", "0.5");
  expect(screen.getByRole("alert").textContent).toBe("The end must be after the start.");
  expect(onChange).toHaveBeenCalledTimes(2);
  fireEvent.click(screen.getByText("Whole file"));
  expect(changed()).toEqual({ over: null });
});
