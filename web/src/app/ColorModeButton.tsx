import { Moon, Sun } from "lucide-react";
import { QuietButton } from "../shared/parts";
import type { ColorMode } from "./colorMode";

export function ColorModeButton({ mode, onToggle }: { mode: ColorMode; onToggle: () => void }) {
  const label = mode === "dark" ? "Light colours" : "Dark colours";
  return (
    <QuietButton aria-label={label} title={label} onClick={onToggle}>
      {mode === "dark" ? <Sun size={16} /> : <Moon size={16} />}
    </QuietButton>
  );
}
