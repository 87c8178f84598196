/** Which lines of the worksheet are selected, and which one is when those are gone. */

type Lines = readonly { id: string }[];
export type Held = { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean };
/** The line that is shown, those that are selected beside it, and where a stretch of them begins. */
export type Selection = { line: string | null; others: readonly string[]; anchor: string | null };

/** All selected lines, in the order of the worksheet. */
export const selectedLines = (lines: Lines, { line, others }: Selection): string[] =>
  line === null ? [] : lines.map(({ id }) => id).filter((id) => id === line || others.includes(id));

/** One line; with Ctrl or Cmd in or out of the selection; with Shift all from where it began. */
export function selectLine(lines: Lines, before: Selection, id: string, held?: Held): Selection {
  const selected = selectedLines(lines, before);
  if (held?.shiftKey) {
    // What is shown came by other ways too: a selection begins where it is.
    const anchor = selected.length < 2 ? before.line : before.anchor;
    const place = (key: string | null) => lines.findIndex((one) => one.id === key);
    const [from, to] = [Math.max(0, place(anchor)), place(id)];
    const others = lines.slice(Math.min(from, to), Math.max(from, to) + 1).map((one) => one.id);
    return { line: id, others, anchor };
  }
  if ((held?.ctrlKey || held?.metaKey) && before.line !== null) {
    const others = selected.filter((one) => one !== id);
    if (!selected.includes(id)) return { line: id, others: selected, anchor: id };
    const last = others.at(-1);
    return last === undefined ? before : { line: last, others, anchor: last };
  }
  return { line: id, others: [], anchor: id };
}

/** Of the lines that are left, the nearest one before a line that is gone; the first where none is. */
export function nearestLeft(before: Lines, now: Lines, gone: string): string | null {
  const left = new Set(now.map(({ id }) => id));
  const at = before.findIndex(({ id }) => id === gone);
  const above = before.slice(0, Math.max(0, at));
  return above.findLast(({ id }) => left.has(id))?.id ?? now[0]?.id ?? null;
}
