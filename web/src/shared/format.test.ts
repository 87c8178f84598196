import { expect, it } from "vitest";
import { bytes, clock, count, depth, duration, shortened } from "./format";

it("writes times, sizes and counts as people read them", () => {
  expect(clock(74.25)).toBe("1:14.250");
  expect(clock(70_930, 0)).toBe("19:42:10");
  expect(clock(-1, 1)).toBe("0:00.0");
  expect([duration(48_000 * 61, 48_000), duration(73_473, 48_000)]).toEqual(["1:01", "1.53 s"]);
  expect([bytes(999), bytes(5_760_654), bytes(12_000_000_000)]).toEqual(["999 B", "5.8 MB", "12 GB"]);
  expect([count(1, "file"), count(1_200, "file")]).toEqual(["1 file", "1,200 files"]);
  expect([depth("24"), depth("float"), depth("double")]).toEqual(["24 bit", "32 bit float", "64 bit float"]);
});

it("shortens long names in the middle", () => {
  expect(shortened("lamp-bell_L")).toBe("lamp-bell_L");
  expect(shortened("a very long name of a recording_FL", 16)).toBe("a very …rding_FL");
  expect(shortened("x".repeat(300)).length).toBe(28);
});
