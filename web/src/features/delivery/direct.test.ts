import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { client, type Delivery, type PlannedFile } from "../../api/client";
import { job, mergeStep } from "../../api/testing";
import { deliverDirectly, type Wanted } from "./direct";
import { DEFAULTS } from "./settings";
import { deliveryWith, planned } from "./testing";

const REF = "step:m:0";
const WANTED: Wanted = { refs: [REF], copies: [], rest: false, settings: null, range: null, to: null };
const answer = (data: unknown) => ({ data, response: new Response(null, { status: 200 }) });

/** A server with these deliveries, which plans so each time it is asked; what it was asked to deliver. */
function server(deliveries: Delivery[][], plans: Partial<PlannedFile>[]) {
  vi.spyOn(client, "GET").mockImplementation((async () =>
    answer(deliveries.length > 1 ? deliveries.shift() : deliveries[0])) as never);
  const orders: unknown[] = [];
  const post = vi.spyOn(client, "POST").mockImplementation((async (
    path: string,
    { body }: { body: object },
  ) => {
    if (path.endsWith("/plan"))
      return answer([planned(REF, plans.length > 1 ? (plans.shift() ?? {}) : (plans[0] ?? {}))]);
    orders.push(body);
    return answer(deliveryWith({ id: "new", state: "waiting" }));
  }) as never);
  return { orders, post };
}

beforeEach(() => void vi.useFakeTimers());
afterEach(() => {
  vi.useRealTimers();
  vi.restoreAllMocks();
});

async function run(wanted: Partial<Wanted> = {}) {
  const delivered = deliverDirectly(job([mergeStep()]), { ...WANTED, ...wanted });
  delivered.catch(() => {});
  await vi.advanceTimersByTimeAsync(5_000);
  return delivered;
}

it("delivers with the settings of the last delivery, without the files that went along with it", async () => {
  const last = deliveryWith({ settings: { ...DEFAULTS, depth: "16", rest: true } });
  const writing = deliveryWith({ id: "new", state: "writing" });
  const done = deliveryWith({ id: "new", state: "done" });
  const { orders } = server([[last], [writing, last], [done, last]], [{}]);
  expect(await run()).toEqual(done);
  expect(orders).toEqual([
    { ...DEFAULTS, depth: "16", rest: false, refs: [REF], copies: [], range: null, to: null, revision: "r" },
  ]);
});

it("takes other files along where everything is delivered and they were wanted", async () => {
  const { orders } = server([[deliveryWith({ id: "new" })]], [{}]);
  await run({ rest: true, copies: ["source:sea"], settings: { ...DEFAULTS, rest: true } });
  await run({ rest: true, copies: ["source:sea"], settings: DEFAULTS });
  expect(orders).toMatchObject([
    { rest: true, copies: [] },
    { rest: false, copies: ["source:sea"] },
  ]);
});

it.each([
  ["would clip", { over_db: 0.1 }],
  ["is outside the range", { outside: "It ends before." }],
  ["can't be written", { refused: "FLAC holds 8 channels." }],
])("delivers nothing unasked of what %s", async (_, plan) => {
  const { orders } = server([[]], [plan]);
  expect(await run()).toBeNull();
  expect(orders).toEqual([]);
});

it("waits until it is known whether something would clip", async () => {
  const { orders, post } = server(
    [[deliveryWith({ id: "new" })]],
    [{ over_db: null }, { over_db: null }, { over_db: 0 }],
  );
  await run();
  expect(post.mock.calls.filter((call: unknown[]) => String(call[0]).endsWith("/plan"))).toHaveLength(3);
  expect(orders).toHaveLength(1);
});

it("says so where the delivery is deleted meanwhile", async () => {
  server([[]], [{}]);
  await expect(run()).rejects.toThrow("deleted");
});
