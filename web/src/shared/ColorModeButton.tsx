import { Moon, Sun } from "lucide-react";
import { colorModes, useColorMode } from "./colorMode";
import { QuietButton } from "./parts";

export function ColorModeButton() {
  const mode = useColorMode();
  const label = mode === "dark" ? "Light colours" : "Dark colours";
  return (
    <QuietButton aria-label={label} title={label} onClick={colorModes.toggle}>
      {mode === "dark" ? <Sun size={16} /> : <Moon size={16} />}
    </QuietButton>
  );
}
