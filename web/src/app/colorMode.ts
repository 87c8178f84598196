/** Light or dark: as the system says, until the user says otherwise. The class on <html> decides. */
import { useEffect, useState } from "react";

export type ColorMode = "light" | "dark";
const KEY = "wedge-turn-colors";

function initial(): ColorMode {
  const chosen = localStorage.getItem(KEY);
  if (chosen === "light" || chosen === "dark") return chosen;
  return window.matchMedia("(prefers-color-scheme: light)").matches ? "light" : "dark";
}

export function useColorMode(): [ColorMode, () => void] {
  const [mode, setMode] = useState<ColorMode>(initial);
  useEffect(() => {
    document.documentElement.className = mode;
    document.documentElement.style.colorScheme = mode;
  }, [mode]);
  const toggle = () => {
    const next = mode === "dark" ? "light" : "dark";
    localStorage.setItem(KEY, next);
    setMode(next);
  };
  return [mode, toggle];
}
