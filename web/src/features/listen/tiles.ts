/** Pictures and samples in tiles on a fixed grid, kept while they are near to being looked at. */
import { fetchFloats, type View } from "../../api/binary";

export type TileKind = "waveform" | "correlation" | "samples";
export const TILE_BINS = 1024;
const MOST_KEPT = 600;

type Tile = { data: Float32Array | null; failed: boolean };
const kept = new Map<string, Tile>();

/** The tile if it is there; else null, and `arrived` is called when it is. `per` is frames in a bin. */
export function tile(
  key: string,
  view: View,
  kind: TileKind,
  per: number,
  index: number,
  arrived: (problem?: unknown) => void,
): Float32Array | null {
  const name = `${key}|${kind}|${per}|${index}`;
  const found = kept.get(name);
  if (found) {
    kept.delete(name);
    kept.set(name, found);
    return found.data;
  }
  const fresh: Tile = { data: null, failed: false };
  kept.set(name, fresh);
  for (const oldest of kept.keys()) {
    if (kept.size <= MOST_KEPT) break;
    kept.delete(oldest);
  }
  const start = index * TILE_BINS * per;
  const range = kind === "samples" ? { start, frames: TILE_BINS } : { start, per, bins: TILE_BINS };
  fetchFloats(view, kind, range).then(
    (data) => {
      fresh.data = data;
      arrived();
    },
    (problem: unknown) => {
      kept.delete(name);
      arrived(problem);
    },
  );
  return null;
}
