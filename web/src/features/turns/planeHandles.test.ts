import { expect, it } from "vitest";
import { DEFAULTS } from "../../api/testing";
import {
  decodeHandles,
  foldHandles,
  LEFT,
  levelHandles,
  matrixHandles,
  type PlaneHandle,
  polarityHandles,
  RIGHT,
  widthHandles,
} from "./planeHandles";

const handle = <T>(handles: PlaneHandle<T>[], n = 0) => handles[n] as PlaneHandle<T>;
const far = { x: 0.6, y: -0.9 };

it("stays where it is when it is moved to where it is", () => {
  const matrix = { ...DEFAULTS.matrix, ll: 0.5, rl: -0.25 };
  expect(handle(matrixHandles(matrix)).moved(handle(matrixHandles(matrix)).at)).toEqual(matrix);
  const level = { ...DEFAULTS.level, gains_db: [-6, 3] };
  for (const n of [0, 1])
    expect(handle(levelHandles(level), n).moved(handle(levelHandles(level), n).at)).toEqual(level);
  const width = { ...DEFAULTS.width, width: 1.4 };
  for (const n of [0, 1])
    expect(handle(widthHandles(width), n).moved(handle(widthHandles(width), n).at)).toEqual(width);
  const fold = { ...DEFAULTS.fold, take: "blend" as const, blend: 0.3 };
  expect(handle(foldHandles(fold)).moved(handle(foldHandles(fold)).at)).toEqual(fold);
  for (const change of [{ side_db: 3 }, { side_db: -6, flip_side: true }, { scale: "power" as const }]) {
    const decode = { ...DEFAULTS.decode, ...change };
    expect(handle(decodeHandles(decode)).moved(handle(decodeHandles(decode)).at)).toEqual(decode);
  }
});

it("reads a matrix from where a tip is pulled", () => {
  const moved = handle(matrixHandles(DEFAULTS.matrix), 1).moved({ x: LEFT.x / 2, y: LEFT.y / 2 });
  expect(moved).toEqual({ ...DEFAULTS.matrix, lr: 0.5, rr: 0 });
});

it("sets one level, or that of both where they move together", () => {
  const half = { x: RIGHT.x / 2, y: RIGHT.y / 2 };
  expect(handle(levelHandles({ ...DEFAULTS.level, gains_db: [0, 0] }), 1).moved(half).gains_db).toEqual([
    0, -6,
  ]);
  expect(handle(levelHandles({ ...DEFAULTS.level, gains_db: [0] }), 1).moved(half).gains_db).toEqual([-6]);
  expect(handle(levelHandles({ ...DEFAULTS.level, gains_db: [0] })).moved(far).gains_db[0]).toBeGreaterThan(
    -30,
  );
  expect(handle(levelHandles({ ...DEFAULTS.level, gains_db: [0] })).stepped(-1).gains_db).toEqual([-0.5]);
});

it("inverts a channel that is pulled through the middle, and never none", () => {
  const right = { ...DEFAULTS.polarity, channels: "right" as const };
  const [left, other] = polarityHandles(right);
  expect(left?.moved({ x: 1, y: 1 }).channels).toBe("both");
  expect(other?.text).toBe("inverted");
  expect(other?.stepped(1).channels).toBe("right");
  expect(handle(polarityHandles({ ...right, channels: "both" })).stepped(1).channels).toBe("right");
});

it("blends, widens and sets the side within their limits", () => {
  const fold = { ...DEFAULTS.fold, take: "blend" as const };
  expect(handle(foldHandles(fold)).moved({ x: 5, y: 0.1 }).blend).toBe(1);
  expect(handle(foldHandles(fold)).stepped(1).blend).toBe(0.51);
  expect(foldHandles(DEFAULTS.fold)).toEqual([]);
  expect(handle(widthHandles(DEFAULTS.width)).moved({ x: 3, y: 0 }).width).toBe(0);
  expect(handle(widthHandles(DEFAULTS.width)).stepped(-1).width).toBeCloseTo(1.42);
  const decode = handle(decodeHandles(DEFAULTS.decode));
  expect(decode.moved({ x: 1, y: 0 }).side_db).toBe("off");
  expect(decode.moved({ x: -40, y: 0 }).side_db).toBe(12);
  expect(handle(decodeHandles({ ...DEFAULTS.decode, side_db: "off" })).stepped(-1).side_db).toBe(-60);
});
