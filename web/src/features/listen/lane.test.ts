import { describe, expect, it } from "vitest";
import type { Clip, Job } from "../../api/client";
import { laterLane, playable } from "./lane";

const clip = (ref: string, key: string, change: Partial<Clip> = {}) =>
  ({ ref, key, name: ref, channels: 2, frames: 100, rate: 48_000, ...change }) as Clip;
const job = (sources: Clip[], outputs: Clip[]) => ({ sources, steps: [{ outputs }] }) as unknown as Job;
const lane = { label: "Out", clips: [clip("step:a:0", "before")] } as const;

describe("a lane after a change of the job", () => {
  it("has the new samples of the same clips", () => {
    const now = laterLane(lane, job([clip("source:x", "x")], [clip("step:a:0", "after")]));
    expect(playable(now, "j", "r")).toEqual({
      key: "after",
      channels: 2,
      later: 0,
      view: { job: "j", revision: "r", clips: ["step:a:0"] },
    });
    expect(now?.label).toBe("Out");
  });

  it("is not there where a clip is gone", () => {
    expect(laterLane(lane, job([clip("source:x", "x")], []))).toBeNull();
  });

  it.each([{ frames: 90 }, { channels: 1 }, { rate: 44_100 }])(
    "is not there for another shape: %o",
    (shape) => {
      expect(laterLane(lane, job([], [clip("step:a:0", "after", shape)]))).toBeNull();
    },
  );
});
