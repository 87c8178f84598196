/** The hushes that are suggested for a line, but for those it has. */
import type { Step } from "../../api/client";
import { useSuggestedHushes } from "../../api/queries";
import { useSettled } from "../../shared/settled";
import { type Hush, isFree, type Span } from "./hushes";
import { useHushDrawing } from "./hushing";

export type Proposal = { channel: number; span: Span };
/** How the line's clip is looked up: the job, its revision, and the key of a clip. */
export type ClipLookup = { job: string; revision: string; keyOf: (ref: string) => string };

export function useSuggestion(step: Step | null, hushes: readonly Hush[], rate: number, place: ClipLookup) {
  const { suggesting, threshold } = useHushDrawing(step?.id ?? "");
  const clip = step?.inputs[0] ?? "";
  const settled = useSettled(threshold, step?.id ?? "");
  const { data, isFetching, error } = useSuggestedHushes(
    { job: place.job, revision: place.revision, clip },
    place.keyOf(clip),
    settled,
    suggesting,
  );
  const proposals: Proposal[] =
    suggesting && data
      ? data.hushes
          .map(({ channel, start, end }) => ({ channel, span: [start, end] as const }))
          .filter(({ channel, span }) => isFree(hushes, channel, span, rate))
      : [];
  return {
    suggesting,
    proposals,
    threshold: threshold ?? data?.threshold_db ?? null,
    waiting: suggesting && !data && isFetching,
    error: suggesting ? error : null,
  };
}
