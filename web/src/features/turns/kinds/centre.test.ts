import { expect, it } from "vitest";
import { DEFAULTS } from "../../../api/testing";
import type { Of } from "../../../api/turns";
import { centre } from "./centre";

const turn = DEFAULTS.centre;

it("draws the wedge where the turn works, and none of a difference", () => {
  const wedge = (change: Partial<Of<"centre">>) => centre.overlay?.wedge({ ...turn, ...change }, 48_000);
  expect(wedge({})).toMatchObject({ low: 180, high: 10_000 });
  expect(wedge({ low_hz: 0, high_hz: "max" })).toMatchObject({ low: 0, high: 24_000 });
  expect(wedge({ method: "difference" })).toBeNull();
});

it("takes the ends of the map for no limit, as the panel does", () => {
  const moved = (change: { low?: number; high?: number; position?: number }) =>
    centre.overlay?.moved(turn, change);
  expect(moved({ low: 40 })?.low_hz).toBe(0);
  expect(moved({ low: 250.4 })?.low_hz).toBe(250);
  expect(moved({ high: 24_000 })?.high_hz).toBe("max");
  expect(moved({ high: 9_000 })?.high_hz).toBe(9_000);
  expect(moved({ position: 0.2 })).toEqual({ ...turn, position: 0.2 });
});

it("means the wedge where it is moved by hand", () => {
  const voice = { ...turn, method: "voice" as const };
  expect(centre.overlay?.wedge(turn, 48_000)).toMatchObject({ low: 180, high: 10_000 });
  // A voice is told by its sound: no wedge is drawn, but what is taken.
  expect(centre.overlay?.wedge(voice, 48_000)).toBeNull();
  expect([voice, turn].map((one) => centre.overlay?.showsTaken(one))).toEqual([true, false]);
  expect(centre.overlay?.moved(voice, { opening: 2 })).toEqual({ ...turn, opening: 2 });
});
