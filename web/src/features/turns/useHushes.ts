/** The hushes of a line, as they lie over its waveform, and what is done to them there. */
import type { Step } from "../../api/client";
import { channelNames } from "../../shared/channelNames";
import { added, type Hush, hushText, moved, removed, spanOf, split, taken } from "./hushes";
import { selectHush, toggleDrawing, useHushDrawing } from "./hushing";
import { kindOf } from "./kinds";
import type { Change } from "./settings/common";
import { type ClipLookup, useSuggestion } from "./useSuggestion";

const NONE: readonly Hush[] = [];

/** In frames at `rate`; null where the line's kind has none. */
export function useHushes(
  step: Step | null,
  rate: number,
  place: ClipLookup & { selected: () => { start: number; end: number } | null },
  onChange: (step: string, change: Change) => void,
) {
  const id = step?.id ?? "";
  const { selected, drawing } = useHushDrawing(id);
  const kind = step && kindOf(step.turn).hushes;
  const hushes = step && kind ? kind.of(step.turn) : NONE;
  const { proposals } = useSuggestion(step, hushes, rate, place);
  if (!step || !kind) return null;
  const names = channelNames(step.matrix.length, step.outputs[0]);
  const change = (gesture: string, next: Hush[] | null) =>
    next && onChange(id, { turn: kind.changed(step.turn, next), gesture });
  const draw = (channel: number, span: readonly [number, number]) => {
    change(`add ${hushes.length}`, added(hushes, channel + 1, span));
    selectHush(id, hushes.length);
  };
  return {
    hushes: hushes.map((hush) => {
      const [start, end] = spanOf(hush, rate);
      const text = hushText(hush, names[hush.channel - 1] ?? `channel ${hush.channel}`, rate);
      const gain = hush.gain_db === "mute" ? 0 : 10 ** (hush.gain_db / 20);
      return { channel: hush.channel - 1, start, end, gain, text };
    }),
    proposals: proposals.map(({ channel, span }) => ({ channel: channel - 1, span })),
    onTake: (which: readonly number[]) =>
      change(
        `take ${hushes.length}`,
        taken(
          hushes,
          which.flatMap((n) => proposals[n] ?? []),
        ),
      ),
    selected,
    drawing,
    onDrawing: () => {
      const range = place.selected();
      // A range that is selected becomes a hush of the channel that was worked on last.
      if (range) draw((hushes[selected ?? hushes.length - 1]?.channel ?? 1) - 1, [range.start, range.end]);
      else toggleDrawing(id);
    },
    onSelect: (hush: number | null) => selectHush(id, hush),
    onDraw: draw,
    onMove: (hush: number, span: readonly [number, number]) =>
      change(`move ${hush}`, moved(hushes, hush, span)),
    onSplit: (hush: number, frame: number) =>
      change(`split ${hushes.length}`, split(hushes, hush, frame, rate)),
    onRemove: (hush: number) => {
      change(`remove ${hushes.length}`, removed(hushes, hush));
      selectHush(id, null);
    },
  };
}
