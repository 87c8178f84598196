/** The lines of the worksheet that are selected, and what is done with them. */
import { useMemo, useRef, useState } from "react";
import type { Job, Step } from "../api/client";
import type { LineAction, LinePlace } from "../api/edits";
import type { Worksheet as WorksheetStore } from "../api/worksheet";
import type { LineCommand } from "../features/turns";

type Held = { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean };
/** Where the next turn is added: before a line, after it, or at the end. */
export type Inserting = { side: "before" | "after"; line: number; step: Step };

type Given = {
  job: Job;
  current: string | null;
  choose: (line: string | null) => void;
  edits: WorksheetStore;
  /** The cursor into the field where a turn is typed. */
  type: () => void;
};

export function useLines({ job, current, choose, edits, type }: Given) {
  const { steps } = job;
  const [others, setOthers] = useState<readonly string[]>([]);
  const [saving, setSaving] = useState(false);
  const [side, setSide] = useState<Inserting["side"] | null>(null);
  const anchor = useRef(current);
  const selected = useMemo(
    () =>
      steps
        .filter(({ id }) => id === current || (current !== null && others.includes(id)))
        .map(({ id }) => id),
    [steps, current, others],
  );
  const at = steps.findIndex(({ id }) => id === current);
  const step = steps[at] ?? null;
  const inserting: Inserting | null = side && step ? { side, line: at + 1, step } : null;
  const place: LinePlace | undefined =
    inserting?.side === "before"
      ? { before: inserting.step.id }
      : inserting
        ? { after: inserting.step.id }
        : undefined;

  const select = (id: string, held?: Held) => {
    if (held?.shiftKey) {
      // What is shown came by other ways too: a selection begins where it is.
      if (selected.length < 2) anchor.current = current;
      const place = (key: string | null) => steps.findIndex((one) => one.id === key);
      const [from, to] = [Math.max(0, place(anchor.current)), place(id)];
      setOthers(steps.slice(Math.min(from, to), Math.max(from, to) + 1).map((one) => one.id));
    } else if ((held?.ctrlKey || held?.metaKey) && current) {
      setOthers(others.includes(id) ? others.filter((one) => one !== id) : [...selected, id]);
      anchor.current = id;
    } else {
      setOthers([]);
      anchor.current = id;
    }
    choose(id);
  };
  const edit = (action: LineAction, to = 0) => {
    if (selected.length) edits.do({ kind: "lines", do: action, steps: selected, to });
  };
  const move = (by: -1 | 1) => {
    const first = steps.findIndex(({ id }) => selected.includes(id));
    const to = Math.min(steps.length - selected.length, Math.max(0, first + by));
    if (to !== first) edit("move", to);
  };
  const insert = (where: Inserting["side"]) => {
    if (!step) return;
    setSide(where);
    type();
  };
  const bypassed =
    selected.length > 0 && steps.every(({ id, bypassed }) => bypassed || !selected.includes(id));
  const command = (command: Exclude<LineCommand, "copy">) => {
    switch (command) {
      case "before":
      case "after":
        return insert(command);
      case "up":
      case "down":
        return move(command === "up" ? -1 : 1);
      case "recipe":
        return setSaving(true);
      default:
        return edit(command);
    }
  };
  return {
    selected,
    select,
    command,
    inserting,
    place,
    bypassed,
    canBypass: steps.every(({ id, one_to_one }) => one_to_one || !selected.includes(id)),
    savable: steps.every(({ id, waits_for }) => waits_for === null || !selected.includes(id)),
    saving,
    stopSaving: () => setSaving(false),
    toggleBypass: () => edit(bypassed ? "enable" : "bypass"),
    stopInserting: () => setSide(null),
  };
}
