/** Which rows the list shows, in which order, and what a click selects. */
import type { Pair, Source } from "../../api/client";

/** `place` says where in a bracket a row stands that belongs to a pair. */
export type Row = { source: Source; pair: Pair | null; place: "first" | "last" | null };

/** Rows in the order the files came in; the right of a pair stands under its left. */
export function arrange(sources: Source[], pairs: Pair[], filter: string): Row[] {
  const wanted = filter.trim().toLocaleLowerCase();
  const shown = sources.filter((source) => source.file.toLocaleLowerCase().includes(wanted));
  const byRef = new Map(shown.map((source) => [source.ref, source]));
  const pairOf = new Map(pairs.flatMap((pair) => [[pair.left, pair] as const, [pair.right, pair] as const]));
  const done = new Set<string>();
  return shown.flatMap((source): Row[] => {
    if (done.has(source.ref)) return [];
    const pair = pairOf.get(source.ref) ?? null;
    const left = pair && byRef.get(pair.left);
    const right = pair && byRef.get(pair.right);
    if (!left || !right) return [{ source, pair, place: null }];
    done.add(left.ref).add(right.ref);
    return [
      { source: left, pair, place: "first" },
      { source: right, pair, place: "last" },
    ];
  });
}

type Held = { ctrlKey: boolean; metaKey: boolean; shiftKey: boolean };

/** One row; with Ctrl or Cmd in or out of the selection; with Shift all from the last one chosen. */
export function select(rows: Row[], selected: string[], anchor: number, at: number, held: Held): string[] {
  const ref = rows[at]?.source.ref;
  if (ref === undefined) return selected;
  if (held.shiftKey) {
    const [from, to] = [Math.min(anchor, at), Math.max(anchor, at)];
    return rows.slice(from, to + 1).map((row) => row.source.ref);
  }
  if (held.ctrlKey || held.metaKey)
    return selected.includes(ref) ? selected.filter((one) => one !== ref) : [...selected, ref];
  return [ref];
}
