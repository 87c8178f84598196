import { expect, it, vi } from "vitest";
import { TILE_BINS, tile } from "./tiles";

const view = { job: "j", revision: "r", clips: ["source:a", "source:b"] };

function answering(answer: () => Response) {
  const asked: string[] = [];
  vi.stubGlobal("fetch", async (url: string) => {
    asked.push(url);
    return answer();
  });
  return asked;
}

it("asks once for a tile, and has it when it has arrived", async () => {
  const asked = answering(() => new Response(new Float32Array([1, 2]).buffer));
  const arrived = vi.fn();
  expect(tile("k1", view, "waveform", 256, 3, arrived)).toBeNull();
  expect(tile("k1", view, "waveform", 256, 3, arrived)).toBeNull();
  await vi.waitFor(() => expect(arrived).toHaveBeenCalledOnce());
  expect([...(tile("k1", view, "waveform", 256, 3, arrived) ?? [])]).toEqual([1, 2]);
  expect(asked).toHaveLength(1);
  const query = new URL(asked[0] as string, "http://x").searchParams;
  expect(query.getAll("clip")).toEqual(view.clips);
  expect(Object.fromEntries(query)).toMatchObject({
    start: String(3 * TILE_BINS * 256),
    per: "256",
    bins: "1024",
  });
});

it("asks for samples by frames", async () => {
  const asked = answering(() => new Response(new Float32Array(1).buffer));
  tile("k2", view, "samples", 1, 2, () => {});
  await vi.waitFor(() => expect(asked[0]).toContain(`start=${2 * TILE_BINS}&frames=${TILE_BINS}`));
});

it("tells a problem and asks again the next time", async () => {
  const asked = answering(
    () => new Response(JSON.stringify({ code: "x", message: "gone" }), { status: 404 }),
  );
  const arrived = vi.fn();
  tile("k3", view, "correlation", 1024, 0, arrived);
  await vi.waitFor(() => expect(String(arrived.mock.calls[0]?.[0])).toContain("gone"));
  tile("k3", view, "correlation", 1024, 0, arrived);
  expect(asked).toHaveLength(2);
});
