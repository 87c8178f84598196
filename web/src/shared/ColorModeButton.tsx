import { Moon, Sun } from "lucide-react";
import { colorModes, useColorMode } from "./colorMode";
import { QuietButton } from "./parts";
import { Tip } from "./Tip";

export function ColorModeButton() {
  const mode = useColorMode();
  const label = mode === "dark" ? "Light theme" : "Dark theme";
  return (
    <Tip text={label}>
      <QuietButton aria-label={label} onClick={colorModes.toggle}>
        {mode === "dark" ? <Sun size={16} /> : <Moon size={16} />}
      </QuietButton>
    </Tip>
  );
}
