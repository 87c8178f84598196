/** Light or dark: as the system says, until the user says otherwise. The class on <html> decides. */
import { useSyncExternalStore } from "react";

export type ColorMode = "light" | "dark";
const KEY = "wedge-turn-colors";
const CLASSES: readonly ColorMode[] = ["light", "dark"];

/** A browser may keep nothing for this page: then the system decides each time. */
function stored(): ColorMode | null {
  try {
    const mode = localStorage.getItem(KEY);
    return mode === "light" || mode === "dark" ? mode : null;
  } catch {
    return null;
  }
}

class ColorModes {
  private mode: ColorMode = "dark";
  private listeners = new Set<() => void>();

  /** Follow the system, or what was chosen before. */
  start() {
    const light = window.matchMedia("(prefers-color-scheme: light)");
    const follow = () => this.set(stored() ?? (light.matches ? "light" : "dark"));
    light.addEventListener("change", follow);
    window.addEventListener("storage", ({ key }) => key === KEY && follow()); // chosen in another window
    follow();
  }

  get = () => this.mode;

  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => void this.listeners.delete(listener);
  };

  toggle = () => {
    const mode = this.mode === "dark" ? "light" : "dark";
    try {
      localStorage.setItem(KEY, mode);
    } catch {
      // It holds for this page then.
    }
    this.set(mode);
  };

  private set(mode: ColorMode) {
    const { classList, style } = document.documentElement;
    for (const name of CLASSES) classList.toggle(name, name === mode);
    style.colorScheme = mode;
    this.mode = mode;
    for (const listener of this.listeners) listener();
  }
}

export const colorModes = new ColorModes();
export const useColorMode = () => useSyncExternalStore(colorModes.subscribe, colorModes.get);
