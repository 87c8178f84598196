import { fireEvent, screen } from "@testing-library/react";
import { createRef } from "react";
import { expect, it, vi } from "vitest";
import { show } from "../../shared/testing";
import { type HushActions, HushStretch } from "./HushStretch";

it("is selected by Space and by Enter, and keeps both from the page", () => {
  const actions = createRef<HushActions>() as { current: HushActions };
  actions.current = { onSelect: vi.fn(), onMove: vi.fn(), onRemove: vi.fn() };
  const hush = { channel: 0, start: 100, end: 900, gain: 0, text: "left, 0:01" };
  show(
    <HushStretch
      hush={hush}
      left={0}
      width={80}
      channels={2}
      current
      selected={false}
      scale={10}
      frames={1_000}
      n={3}
      actions={actions}
    />,
  );
  const button = screen.getByRole("button", { name: "Hush: left, 0:01" });
  // fireEvent gives false where the key was kept from the page.
  expect([fireEvent.keyDown(button, { key: " " }), fireEvent.keyDown(button, { key: "Enter" })]).toEqual([
    false,
    false,
  ]);
  expect(vi.mocked(actions.current.onSelect).mock.calls).toEqual([[3], [3]]);
});
