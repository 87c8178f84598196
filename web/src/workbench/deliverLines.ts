/** Delivering lines, or everything, without the delivery's screen: with the settings of the last time. */
import type { WorkbenchDeps, WorkbenchState } from "./store";

type Deps = Pick<WorkbenchDeps, "deliver" | "save" | "tell" | "tellProblem"> & {
  /** Resolves when no edit is on its way. */
  settled: () => Promise<void>;
  getState: () => WorkbenchState;
  goTo: (screen: "delivery") => void;
};

/** Deliver these lines alone and have the browser save them; where they are null, everything to where it went last. */
export async function deliverLines(lines: readonly string[] | null, deps: Deps): Promise<void> {
  try {
    await deps.settled();
    const { job, deliveryChoice, range } = deps.getState();
    const ticked = deliveryChoice?.ends === job.ends.join(" ") ? deliveryChoice.refs : job.ends;
    const steps = job.steps.filter(({ id }) => lines?.includes(id));
    const refs = lines ? steps.flatMap(({ outputs }) => outputs.map(({ ref }) => ref)) : ticked;
    if (!refs.length) return deps.tell("Nothing to deliver yet", "Add a turn first.");
    const delivery = await deps.deliver(job, {
      refs,
      settings: deliveryChoice?.settings ?? null,
      range,
      // A line alone goes to whoever downloads it; everything to where it went, with what went along.
      ...(lines
        ? { copies: [], rest: false, to: null }
        : { copies: deliveryChoice?.copies ?? [], rest: true, to: deliveryChoice?.to ?? null }),
    });
    if (delivery?.state === "done") {
      if (lines) deps.save(delivery);
      return;
    }
    // What failed is explained there, and what has to be decided is decided there.
    if (!delivery || delivery.error) deps.goTo("delivery");
    if (!delivery) deps.tell("Check these files first", "See what would clip or can’t be written.");
  } catch (problem) {
    deps.tellProblem(problem);
  }
}
