import { fireEvent, screen } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { clip, job } from "../../api/testing";
import type { WedgeSettings } from "../../api/turns";
import { show } from "../../shared/testing";
import { ListenProvider } from "./context";
import type { ShownLane } from "./listenState";
import { MapLane } from "./MapLane";
import { ListenSession } from "./session";

const WEDGE: WedgeSettings = { position: 0, opening: 1, strength: 1.5, low: 180, high: 10_000 };

/** A map of 600 by 400 pixels with its wedge; what the wedge is changed to is noted. */
function map(wedge: Partial<WedgeSettings> = {}) {
  HTMLElement.prototype.setPointerCapture ??= () => {};
  vi.spyOn(HTMLElement.prototype, "getBoundingClientRect").mockReturnValue({
    left: 0,
    top: 0,
    width: 600,
    height: 400,
    right: 600,
    bottom: 400,
  } as DOMRect);
  const onWedge = vi.fn();
  const session = new ListenSession({ loudness: async () => null, onProblem: () => {} });
  session.show(
    {
      job: "j",
      revision: "r",
      input: { label: "In", clips: [clip("song", 2)] },
      output: null,
      labels: ["In", "Out", "In − Out"],
      picture: "map",
    },
    job([]),
  );
  const shown = session.store.getState().drawn[0] as ShownLane;
  show(
    <ListenProvider session={session}>
      <MapLane shown={shown} wedge={{ ...WEDGE, ...wedge }} onWedge={onWedge} />
    </ListenProvider>,
  );
  const handle = (name: string) =>
    screen.getAllByRole("slider", { name: `Wedge: ${name}` })[0] as HTMLElement;
  const press = (name: string, key: string) => fireEvent.keyDown(handle(name), { key });
  const drag = (name: string, from: readonly [number, number], to: readonly [number, number]) => {
    fireEvent.pointerDown(handle(name), { clientX: from[0], clientY: from[1], pointerId: 1 });
    fireEvent.pointerMove(handle(name), { clientX: to[0], clientY: to[1], pointerId: 1 });
    fireEvent.pointerUp(handle(name));
  };
  return { handle, press, drag, onWedge, last: () => onWedge.mock.calls.at(-1)?.[0] };
}

it("says what it shows, and where the wedge is", () => {
  const { handle } = map({ position: -0.4 });
  expect(screen.getByRole("img", { name: /^Energy of song by direction and frequency/ })).toBeTruthy();
  expect(handle("position").getAttribute("aria-valuenow")).toBe("-0.4");
  expect(handle("position").getAttribute("aria-valuetext")).toBe("40 % left");
  expect(handle("low").getAttribute("aria-valuenow")).toBe("180");
  expect(handle("low").getAttribute("aria-valuetext")).toContain("180.0 Hz");
});

it("moves, opens and limits the wedge by keys, within its limits", () => {
  const { press, last, onWedge } = map({ position: 0.99, opening: 0.3 });
  press("position", "ArrowRight");
  expect(last()).toEqual({ position: 1 });
  press("opening, right edge", "ArrowLeft");
  expect(last()).toEqual({ opening: 0.3 });
  press("opening, right edge", "ArrowRight");
  expect(last().opening).toBeCloseTo(0.35);
  press("opening, left edge", "ArrowLeft");
  expect(last().opening).toBeCloseTo(0.35);
  press("low", "ArrowUp");
  expect(last()).toEqual({ low: 187 });
  press("high", "ArrowDown");
  expect(last().high).toBeLessThan(10_000);
  const before = onWedge.mock.calls.length;
  press("low", "x");
  expect(onWedge.mock.calls.length).toBe(before);
});

it("goes on from where nothing limits the band", () => {
  const { handle, press, last } = map({ low: 0, high: 24_000 });
  expect(handle("low").getAttribute("aria-valuetext")).toBe("no limit");
  expect(handle("high").getAttribute("aria-valuetext")).toBe("no limit");
  press("low", "ArrowUp");
  expect(last().low).toBe(42);
});

it("keeps the ends of the band apart", () => {
  const { press, last } = map({ low: 6_600, high: 10_000 });
  press("low", "ArrowUp");
  expect(last().low).toBe(Math.round(10_000 / 1.5));
  press("high", "ArrowDown");
  expect(last().high).toBe(9_900);
});

it("follows the pointer, from where it was taken", () => {
  const { drag, last, onWedge, handle } = map({ position: 0.2 });
  drag("position", [400, 100], [460, 100]);
  expect(last()).toEqual({ position: 0.4 });
  // The map is 90° wide: a side 150 pixels from the wedge's direction stands a quarter of it, 22.5°, away.
  drag("opening, right edge", [400, 200], [360 + 150, 200]);
  const half = Math.sqrt((1 - 0.5 ** (1 / 1.5)) / 3);
  expect(last().opening).toBeCloseTo(Math.sin(Math.PI / 8) / half, 1);
  // Frequencies lie evenly by their logarithm from 40 Hz to half the rate.
  drag("low", [360, 300], [360, 300]);
  expect(last().low).toBe(Math.round(40 * (24_000 / 40) ** 0.25));
  const before = onWedge.mock.calls.length;
  fireEvent.pointerMove(handle("position"), { clientX: 10, clientY: 10, pointerId: 1 });
  expect(onWedge.mock.calls.length).toBe(before);
});

it("is no wider on the map for a cleaner strength", () => {
  const width = (strength: number) =>
    Number.parseFloat(getComputedStyle(map({ strength }).handle("position")).width);
  expect(width(3)).toBeLessThan(width(1.5));
  expect(width(1.5)).toBeLessThan(width(0.5));
});
