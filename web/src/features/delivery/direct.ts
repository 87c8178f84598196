/** Delivering without the delivery's screen: with the settings of the last time, where nothing has to be decided. */
import { startDelivery } from "../../api/actions";
import type { Delivery, DeliveryRange, DeliverySettings, Job } from "../../api/client";
import { listDeliveries, planDelivery } from "../../api/queries";
import { endedDelivery } from "../../model/events";
import { wait } from "../../shared/wait";
import { DEFAULTS } from "./settings";

const LOOK_EVERY = 500; // milliseconds

export type Wanted = {
  refs: string[];
  /** Files that go along as they are: these, and where `rest` says so all that no line uses, if that was chosen. */
  copies: string[];
  rest: boolean;
  /** As they were chosen on the delivery's screen; where it was not open yet, those of the last delivery. */
  settings: DeliverySettings | null;
  range: DeliveryRange;
  to: string | null;
};

export const isRunning = ({ state }: Pick<Delivery, "state">) => state === "waiting" || state === "writing";

/** What was delivered; or null where that has to be decided on the delivery's screen. */
export async function deliverDirectly(job: Job, wanted: Wanted): Promise<Delivery | null> {
  const { refs, copies, range, to } = wanted;
  const settings = wanted.settings ?? (await listDeliveries(job.id))[0]?.settings;
  const rest = wanted.rest && settings?.rest === true;
  const order = { ...DEFAULTS, ...settings, rest, refs, copies: rest ? [] : copies, range, to };
  for (;;) {
    const files = await planDelivery(job, order);
    if (files.some((file) => file.outside || file.refused || (file.over_db ?? 0) > 0)) return null;
    if (files.every((file) => file.over_db !== null)) break;
    await wait(LOOK_EVERY); // whether one would clip is still being measured
  }
  const { id } = await startDelivery(job, order);
  for (;;) {
    const delivery = (await listDeliveries(job.id)).find((one) => one.id === id);
    if (!delivery) throw new Error("The delivery was deleted");
    if (!isRunning(delivery)) return delivery;
    await Promise.race([wait(LOOK_EVERY), nextEnd()]);
  }
}

const nextEnd = () =>
  new Promise<void>((resolve) => {
    const stop = endedDelivery.subscribe(() => {
      stop();
      resolve();
    });
  });

/** Save what was delivered by the browser: a file by itself, several as a ZIP. */
export function saveDelivery({ id, manifest }: Delivery) {
  const link = document.createElement("a");
  const [file, ...others] = manifest?.files ?? [];
  link.href = file && !others.length ? filePath(id, file.name) : `/api/deliveries/${id}/archive`;
  link.download = "";
  link.click();
}

/** Where a file of a delivery is fetched. */
export const filePath = (delivery: string, name: string) =>
  `/api/deliveries/${delivery}/files/${name.split("/").map(encodeURIComponent).join("/")}`;
