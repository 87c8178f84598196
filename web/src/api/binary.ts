/** Compact binary answers: little-endian float32. */
import { Problem, problemFrom } from "./client";

export type View = { job: string; revision: string; clips: readonly string[] };

export async function fetchFloats(
  view: View,
  what: "samples" | "waveform" | "correlation" | "map" | "loudness",
  range: Record<string, number>,
  signal?: AbortSignal,
  priority: RequestPriority = "high",
): Promise<Float32Array> {
  const query = new URLSearchParams(view.clips.map((clip) => ["clip", clip]));
  for (const [name, value] of Object.entries(range)) query.set(name, String(value));
  const path = `/api/jobs/${view.job}/revisions/${view.revision}/${what}?${query}`;
  return fetchNumbers(path, { priority, ...(signal && { signal }) });
}

async function fetchNumbers(path: string, how: RequestInit = {}): Promise<Float32Array> {
  const response = await fetch(path, how).catch(unreachable);
  if (!response.ok) throw problemFrom(await response.json().catch(() => null), response.status);
  const body = await response.arrayBuffer().catch(unreachable);
  if (body.byteLength % 4) throw new Problem("http", "The server sent incomplete data", "Try again.");
  return new Float32Array(body);
}

function unreachable(error: unknown): never {
  if (error instanceof DOMException && error.name === "AbortError") throw error; // nobody waits for it any more
  throw new Problem("unreachable", "Can’t reach Wedge Turn", "Check that it is still running.");
}

/** A short stereo sound of the pages that explain things. */
export const fetchSound = (name: string) => fetchNumbers(`/api/why/sounds/${name}`);
