/** What has become of a job, in words, for those who don't see the page. */
import { useEffect } from "react";
import type { Delivery, FileFinding, Job } from "../api/client";
import { endedDelivery } from "../model/events";
import type { Worksheet } from "../model/worksheet";
import { announce } from "../shared/announce";
import { count } from "../shared/format";
import { tell } from "../shared/notices";
import type { WorkbenchStore } from "./store";

/** A setting that moves is told where it rests. */
const REST = 700; // milliseconds

/** Tell what changes on a worksheet, whoever changed it. */
export function useSpokenChanges({ store }: Worksheet) {
  useEffect(() => {
    let said = store.getState().job;
    let timer: ReturnType<typeof setTimeout> | undefined;
    const tell = () => {
      const { job } = store.getState();
      if (said && job) announce(changes(said, job));
      said = job;
    };
    const leave = store.subscribe(({ job }, before) => {
      if (job === before.job) return;
      clearTimeout(timer);
      timer = setTimeout(tell, REST);
    });
    return () => {
      clearTimeout(timer);
      leave();
    };
  }, [store]);
}

const ENDED: Partial<Record<Delivery["state"] | "deleted", string>> = {
  done: "Delivery finished",
  failed: "The delivery failed",
  stopped: "The delivery was stopped",
};

/** Tell that a delivery has ended: by a notice too, where its screen is not shown. */
export function useSpokenDeliveries({ state: { job }, store }: WorkbenchStore) {
  const { id } = job;
  useEffect(
    () =>
      endedDelivery.subscribe(({ last }) => {
        const words = last?.job === id && ENDED[last.state];
        if (!last || !words) return;
        const files = last.state === "done" ? `${count(last.files, "file")} written and proved.` : "";
        announce(`${words}. ${files}`);
        if (store.getState().screen !== "delivery")
          tell(words, files || "Open Review and deliver to see why.");
      }),
    [id, store],
  );
}

/** One or two things by name, more of them by their number. */
const few = (texts: string[], many: string): string[] =>
  texts.length > 2 ? [`${texts.length} ${many}`] : texts;

export function changes(before: Job, after: Job): string {
  const [steps, sources] = [byId(before.steps), byId(before.sources)];
  const [nowSteps, nowSources] = [byId(after.steps), byId(after.sources)];
  const added = after.steps.filter((step) => !steps.has(step.id));
  const removed = before.steps.filter((step) => !nowSteps.has(step.id));
  const changed = after.steps.filter(
    (step) => (steps.get(step.id)?.sentence ?? step.sentence) !== step.sentence,
  );
  const files = after.sources.filter((source) => !sources.has(source.id)).length;
  const gone = before.sources.filter((source) => !nowSources.has(source.id)).length;
  const archived = after.sources.filter(
    (one) => one.archived && sources.get(one.id)?.archived === false,
  ).length;
  const back = after.sources.filter((one) => !one.archived && sources.get(one.id)?.archived === true).length;
  const sentences = [
    ...after.steps.flatMap((step) => newOnes(steps.get(step.id)?.findings, step.findings)),
    ...after.sources.flatMap((source) => newOnes(sources.get(source.id)?.findings, source.findings)),
  ];
  return [
    ...few(
      added.map((step) => `Turn added. ${step.sentence}`),
      "turns added.",
    ),
    ...few(
      removed.map((step) => `Turn removed. ${step.sentence}`),
      "turns removed.",
    ),
    ...few(
      changed.map((step) => step.sentence),
      "turns changed.",
    ),
    ...[files && `${count(files, "file")} added.`, gone && `${count(gone, "file")} deleted.`],
    ...[archived && `${count(archived, "file")} archived.`, back && `${count(back, "file")} restored.`],
    ...few(sentences, "new findings."),
  ]
    .filter(Boolean)
    .join(" ");
}

const byId = <T extends { id: string }>(all: readonly T[]) => new Map(all.map((one) => [one.id, one]));

const newOnes = (before: readonly FileFinding[] = [], now: readonly FileFinding[]) =>
  now.filter((one) => !before.some(({ code }) => code === one.code)).map(({ message }) => message);
