/** The settings of a turn on their own, and the moves of a hand on them. */
import { act, fireEvent, screen } from "@testing-library/react";
import { vi } from "vitest";
import type { Step, Turn } from "../../api/client";
import { clip, splitStep } from "../../api/testing";
import { show } from "../../shared/testing";
import { kindOf } from "./kinds";
import { Place } from "./useInputMeasures";

export const PLACE = {
  job: "j",
  revision: "r",
  keyOf: (ref: string) => ref,
  selected: () => ({ start: 480, end: 960, rate: 48_000, startTime: 4_800_000 }),
  playhead: () => 24_000,
  files: [clip("take", 1, { rate: 32_000 }), clip("room", 1, { rate: 48_000 }), clip("sea", 2)],
  insertBefore: vi.fn(),
};

/** The settings of a turn on a stereo clip; changes are finding, and what was measured can be told afterwards. */
export function settings(turn: Turn, more: Partial<Step> = {}) {
  const onChange = vi.fn();
  const step = splitStep({ turn, outputs: [clip("sea", 2)], ...more });
  const { Settings } = kindOf(turn);
  const shown = show(
    <Place.Provider value={PLACE}>
      {Settings && (
        <Settings step={step} turn={turn} names={new Map([["source:sea", "sea"]])} onChange={onChange} />
      )}
    </Place.Provider>,
  );
  const tell = (what: string, data: unknown, ...about: (string | number)[]) =>
    act(async () => shown.queries.setQueryData([what, "source:sea", ...about], data));
  return { onChange, tell, changed: () => onChange.mock.calls.at(-1)?.[0].turn };
}

export const slide = (label: string, value: number) =>
  fireEvent.change(screen.getByLabelText(label), { target: { value: String(value) } });
export const choose = (label: string, value: string) =>
  fireEvent.change(screen.getByLabelText(label), { target: { value } });
/** Checkboxes answer a moment later. */
export const tick = (box: HTMLElement | undefined) => act(async () => box?.click());
export const shownAt = (label: string) => screen.getByLabelText(label).getAttribute("aria-valuetext");

/** Opens what is seldom needed. */
export const openMore = () => fireEvent.click(screen.getByText("More"));
