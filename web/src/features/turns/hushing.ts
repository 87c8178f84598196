/** Which hush of a line is selected, and whether dragging over the waveform draws hushes. */
import { useStore } from "zustand";
import { createStore } from "zustand/vanilla";

type Hushing = { step: string; selected: number | null; drawing: boolean };

const hushing = createStore<Hushing>(() => ({ step: "", selected: null, drawing: false }));

/** What holds for this line; nothing is selected in one that was just gone to. */
export const useHushing = (step: string) => {
  const state = useStore(hushing);
  const here = state.step === step;
  return { selected: here ? state.selected : null, drawing: here && state.drawing };
};

export const selectHush = (step: string, selected: number | null) =>
  hushing.setState((state) => ({ step, selected, drawing: state.step === step && state.drawing }));

export const toggleDrawing = (step: string) =>
  hushing.setState((state) => {
    const here = state.step === step;
    return { step, selected: here ? state.selected : null, drawing: !(here && state.drawing) };
  });
