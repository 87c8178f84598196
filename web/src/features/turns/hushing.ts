/**
 * Which hush of a line is selected, whether dragging over the waveform draws hushes, and whether some are suggested: by a
 * threshold in dB, or by the one that fits.
 */
import { useStore } from "zustand";
import { createStore } from "zustand/vanilla";

type Hushing = {
  step: string;
  selected: number | null;
  drawing: boolean;
  suggesting: boolean;
  threshold: number | null;
};

const NOTHING = { selected: null, drawing: false, suggesting: false, threshold: null };
const hushing = createStore<Hushing>(() => ({ step: "", ...NOTHING }));
const of = (state: Hushing, step: string) => (state.step === step ? state : { step, ...NOTHING });

/** What holds for this line; nothing does in one that was just gone to. */
export const useHushDrawing = (step: string) => {
  const state = useStore(hushing);
  return of(state, step);
};

const change = (step: string, changed: (state: Hushing) => Partial<Hushing>) =>
  hushing.setState((state) => {
    const current = of(state, step);
    return { ...current, ...changed(current) };
  });

export const selectHush = (step: string, selected: number | null) => change(step, () => ({ selected }));
export const toggleDrawing = (step: string) => change(step, ({ drawing }) => ({ drawing: !drawing }));
export const suggestHushes = (step: string, suggesting: boolean) =>
  change(step, () => ({ suggesting, threshold: null }));
export const setThreshold = (step: string, threshold: number) => change(step, () => ({ threshold }));
