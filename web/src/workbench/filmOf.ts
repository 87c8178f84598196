/** Which film belongs to what is heard. */
import type { Job } from "../api/client";
import type { FilmShown } from "../features/listen";

/** The film that a clip's sound is from, through the lines that made it; null where there is none, or not one alone. */
export function filmOf(job: Job, refs: readonly string[]): FilmShown | null {
  const found = refs.map((ref) => trace(job, ref, 0));
  const [first] = found;
  return first && found.every((one) => one?.source === first.source) ? first : null;
}

function trace(job: Job, ref: string, later: number): FilmShown | null {
  const source = job.sources.find((one) => one.ref === ref);
  if (source) {
    const { id, name, recorded } = source;
    return recorded.picture ? { job: job.id, source: id, name, later } : null;
  }
  const step = job.steps.find((one) => one.outputs.some((clip) => clip.ref === ref));
  const [input] = step?.inputs ?? [];
  const rate = step?.outputs[0]?.rate;
  return step && input && rate ? trace(job, input, later + step.begins_at / rate) : null;
}
