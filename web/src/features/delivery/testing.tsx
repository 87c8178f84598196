/** What a server tells of deliveries, and the view of them, for tests. */
import { act } from "@testing-library/react";
import type { ComponentProps } from "react";
import { vi } from "vitest";
import { client, type Delivery, type Job, type Order, type PlannedFile } from "../../api/client";
import { Notices } from "../../shared/notices";
import { show } from "../../shared/testing";
import { DeliveryView } from "./DeliveryView";
import { DEFAULTS } from "./settings";

export const deliveryWith = (more: Partial<Delivery>): Delivery =>
  ({
    id: "d",
    state: "done",
    progress: 1,
    refs: ["step:m:0"],
    copies: [],
    settings: DEFAULTS,
    to: null,
    created: "2026-09-14T19:42:10Z",
    manifest: null,
    error: null,
    range: null,
    files_done: 0,
    files: 0,
    seconds_left: null,
    ...more,
  }) as Delivery;

export const planOf = (refs: string[], range: Order["range"] = null) => [
  "planned",
  "j",
  "r",
  { ...DEFAULTS, refs, copies: [], range, to: null },
];

export const planned = (ref: string, more: Partial<PlannedFile>): PlannedFile => ({
  ref,
  file: "bell.wav",
  depth: "24",
  frames: 48_000,
  start_time: null,
  bytes: 1,
  dithered: false,
  outside: null,
  refused: null,
  over_db: 0,
  lower_db: 0,
  ...more,
});

/** The view of a job; what the server would answer is given afterwards. */
export function view(
  of: Job,
  { changing = false, ...more }: Partial<ComponentProps<typeof DeliveryView>> = {},
) {
  const post = vi.spyOn(client, "POST").mockImplementation((() => new Promise(() => {})) as never);
  post.mockClear();
  const onRange = vi.fn();
  const onAdd = vi.fn();
  const page = (now: boolean) => (
    <>
      <DeliveryView
        job={of}
        changing={now}
        range={null}
        onRange={onRange}
        selected={() => null}
        onAdd={onAdd}
        {...more}
      />
      <Notices />
    </>
  );
  const shown = show(page(changing));
  const tell = (key: unknown[], data: unknown) => act(async () => shown.queries.setQueryData(key, data));
  const orders = () =>
    (post.mock.calls as unknown as [string, { body: object }][]).flatMap(([path, { body }]) =>
      path.endsWith("/deliveries") ? [body] : [],
    );
  return { tell, ordered: () => orders().at(-1), settle: () => shown.again(page(false)), onRange, onAdd };
}
