import { fireEvent, screen } from "@testing-library/react";
import { beforeEach, expect, it, vi } from "vitest";
import { Splitter, useSplit } from "./Splitter";
import { show } from "./testing";

function Panes() {
  const [share, setShare] = useSplit("test", 42);
  return <Splitter label="Between" share={share} onShare={setShare} home={42} />;
}
const bar = () => screen.getByRole("separator", { name: "Between" });
const at = () => Number(bar().getAttribute("aria-valuenow"));
beforeEach(() => localStorage.clear());

it("moves by keys within its limits, and goes home on a double click", () => {
  show(<Panes />);
  fireEvent.keyDown(bar(), { key: "ArrowDown" });
  expect(at()).toBe(44);
  fireEvent.keyDown(bar(), { key: "End" });
  fireEvent.keyDown(bar(), { key: "ArrowDown" });
  expect(at()).toBe(80);
  fireEvent.keyDown(bar(), { key: "x" });
  expect(at()).toBe(80);
  fireEvent.doubleClick(bar());
  expect(at()).toBe(42);
});

it("is where it was left", () => {
  const { unmount } = show(<Panes />);
  fireEvent.keyDown(bar(), { key: "Home" });
  unmount();
  show(<Panes />);
  expect(at()).toBe(15);
});

it("moves where the browser keeps nothing", () => {
  const blocked = () => {
    throw new DOMException("denied", "SecurityError");
  };
  const reading = vi.spyOn(Storage.prototype, "getItem").mockImplementation(blocked);
  const writing = vi.spyOn(Storage.prototype, "setItem").mockImplementation(blocked);
  show(<Panes />);
  expect(at()).toBe(42);
  fireEvent.keyDown(bar(), { key: "ArrowDown" });
  expect(at()).toBe(44);
  expect([reading.mock.calls.length > 0, writing.mock.calls.length > 0]).toEqual([true, true]);
  vi.restoreAllMocks();
});
