import { fireEvent, screen } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { clip, job } from "../../api/testing";
import type { WedgeSettings } from "../../api/turns";
import { show } from "../../shared/testing";
import { ListenProvider } from "./context";
import { fanIn, spotAt } from "./fanGeometry";
import type { ShownLane } from "./listenState";
import { MapLane } from "./MapLane";
import { ListenSession } from "./session";

const WEDGE: WedgeSettings = { position: 0, opening: 1, strength: 1.5, low: 180, high: 10_000 };

/** A map of 600 by 400 pixels with its wedge; what the wedge is changed to is noted. */
function map(wedge: Partial<WedgeSettings> = {}) {
  Element.prototype.setPointerCapture ??= () => {};
  vi.spyOn(Element.prototype, "getBoundingClientRect").mockReturnValue({
    left: 0,
    top: 0,
    width: 600,
    height: 400,
    right: 600,
    bottom: 400,
  } as DOMRect);
  const onWedge = vi.fn();
  const session = new ListenSession({
    loudness: async () => ({ loudness: null, truePeak: null }),
    onProblem: () => {},
  });
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
  const { unmount } = show(
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
  return { unmount, handle, press, drag, onWedge, last: () => onWedge.mock.calls.at(-1)?.[0] };
}

it("says what it shows, and where the wedge is", () => {
  const { handle } = map({ position: -0.4 });
  expect(screen.getByRole("img", { name: /^Energy of song by direction and frequency/ })).toBeTruthy();
  expect(handle("position").getAttribute("aria-valuenow")).toBe("-0.4");
  expect(handle("position").getAttribute("aria-valuetext")).toBe("L40");
  expect(handle("low limit").getAttribute("aria-valuenow")).toBe("180");
  expect(handle("low limit").getAttribute("aria-valuetext")).toContain("180.0 Hz");
});

it("moves, opens and limits the wedge by keys, within its limits", () => {
  const { press, last, onWedge } = map({ position: 0.99, opening: 0.3 });
  press("position", "ArrowRight");
  expect(last()).toEqual({ position: 1 });
  press("right edge", "ArrowLeft");
  expect(last()).toEqual({ opening: 0.3 });
  press("right edge", "ArrowRight");
  expect(last().opening).toBeCloseTo(0.35);
  press("left edge", "ArrowLeft");
  expect(last().opening).toBeCloseTo(0.35);
  press("low limit", "ArrowUp");
  expect(last()).toEqual({ low: 187 });
  press("high limit", "ArrowDown");
  expect(last().high).toBeLessThan(10_000);
  const before = onWedge.mock.calls.length;
  press("low limit", "x");
  expect(onWedge.mock.calls.length).toBe(before);
});

it("goes on from where nothing limits the band", () => {
  const { handle, press, last } = map({ low: 0, high: 24_000 });
  expect(handle("low limit").getAttribute("aria-valuetext")).toBe("no limit");
  expect(handle("high limit").getAttribute("aria-valuetext")).toBe("no limit");
  press("low limit", "ArrowUp");
  expect(last().low).toBe(42);
});

it("keeps the ends of the band apart", () => {
  const { press, last } = map({ low: 6_600, high: 10_000 });
  press("low limit", "ArrowUp");
  expect(last().low).toBe(Math.round(10_000 / 1.5));
  press("high limit", "ArrowDown");
  expect(last().high).toBe(9_900);
});

it("follows the pointer, from where it was taken", () => {
  const { drag, last, onWedge, handle } = map({ position: 0.2 });
  const fan = fanIn(600, 400);
  const at = (pan: number, up: number) => {
    const { x, y } = spotAt(fan, pan, up);
    return [x, y] as const;
  };
  drag("position", at(0.1, 0.5), at(0.3, 0.7));
  expect(last()).toEqual({ position: 0.4 });
  // Left to right are 90°: an edge half a pan from the wedge's direction is 22.5° away.
  drag("right edge", at(0.4, 0.5), at(0.7, 0.5));
  const half = Math.sqrt((1 - 0.5 ** (1 / 1.5)) / 3);
  expect(last().opening).toBeCloseTo(Math.sin(Math.PI / 8) / half, 1);
  // Frequencies are evenly spaced by their logarithm from 40 Hz to half the rate.
  drag("low limit", at(0.2, 0.3), at(0.2, 0.25));
  expect(last().low).toBe(Math.round(40 * (24_000 / 40) ** 0.25));
  const before = onWedge.mock.calls.length;
  fireEvent.pointerMove(handle("position"), { clientX: 10, clientY: 10, pointerId: 1 });
  expect(onWedge.mock.calls.length).toBe(before);
});

it("is narrower on the map for a higher selectivity", () => {
  const edges = (strength: number) => {
    const { unmount } = map({ strength });
    const [left, right] = screen
      .getAllByRole("slider", { name: /edge$/ })
      .map((one) => Number.parseFloat(one.style.left));
    unmount();
    return (right ?? 0) - (left ?? 0);
  };
  expect(edges(3)).toBeLessThan(edges(1.5));
  expect(edges(1.5)).toBeLessThan(edges(0.5));
});
