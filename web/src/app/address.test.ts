import { expect, it } from "vitest";
import { nearestLeft } from "./address";

const lines = (ids: string) => [...ids].map((id) => ({ id }));

it("goes to the nearest line before those that are gone", () => {
  const before = lines("abcdefghijkl");
  expect(nearestLeft(before, lines("abcdijkl"), "h"), "e to h were removed").toBe("d");
  expect(nearestLeft(before, lines("cdefghijkl"), "b"), "none is left before it").toBe("c");
  expect(nearestLeft(before, lines("xa"), "c"), "another window moved lines too").toBe("a");
  expect(nearestLeft(before, [], "a")).toBeNull();
});
