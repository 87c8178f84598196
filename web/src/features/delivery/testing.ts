/** What a server tells of deliveries, for tests. */
import type { Delivery, Order, PlannedFile } from "../../api/client";
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
