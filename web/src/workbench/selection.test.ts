import { expect, it } from "vitest";
import { nearestLeft, type Selection, selectedLines, selectLine } from "./selection";

const lines = (ids: string) => [...ids].map((id) => ({ id }));

it("goes to the nearest line before those that are gone", () => {
  const before = lines("abcdefghijkl");
  expect(nearestLeft(before, lines("abcdijkl"), "h"), "e to h were removed").toBe("d");
  expect(nearestLeft(before, lines("cdefghijkl"), "b"), "none is left before it").toBe("c");
  expect(nearestLeft(before, lines("xa"), "c"), "another window moved lines too").toBe("a");
  expect(nearestLeft(before, [], "a")).toBeNull();
});

it("selects one line, a stretch of them from where it began, and single ones", () => {
  const all = lines("abcdef");
  const none: Selection = { line: null, others: [], anchor: null };
  const held = (key: "shiftKey" | "ctrlKey" | "metaKey") => ({
    shiftKey: false,
    ctrlKey: false,
    metaKey: false,
    [key]: true,
  });
  const chosen = (...clicks: (readonly [string, Parameters<typeof selectLine>[3]?])[]) => {
    const end = clicks.reduce((before, [id, how]) => selectLine(all, before, id, how), none);
    return [end.line, selectedLines(all, end).join("")];
  };
  expect(chosen(["b"])).toEqual(["b", "b"]);
  expect(chosen(["b"], ["d", held("shiftKey")])).toEqual(["d", "bcd"]);
  expect(chosen(["d"], ["f", held("shiftKey")], ["b", held("shiftKey")])).toEqual(["b", "bcd"]);
  expect(chosen(["b"], ["e", held("ctrlKey")], ["c", held("metaKey")])).toEqual(["c", "bce"]);
  expect(chosen(["b"], ["e", held("ctrlKey")], ["e", held("ctrlKey")])).toEqual(["b", "b"]);
  expect(chosen(["b"], ["b", held("ctrlKey")])).toEqual(["b", "b"]);
  expect(chosen(["b"], ["e", held("ctrlKey")], ["a"])).toEqual(["a", "a"]);
});
