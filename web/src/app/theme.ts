/** Every colour and type of the application. Night on a snow slope; a light theme by day. */
import "@fontsource-variable/atkinson-hyperlegible-mono";
import "@fontsource-variable/atkinson-hyperlegible-next";
import { createSystem, defaultConfig, defineConfig } from "@chakra-ui/react";

const pair = (light: string, dark: string) => ({ value: { base: light, _dark: dark } });

const config = defineConfig({
  globalCss: {
    "html, body, #root": { height: "100%", bg: "ground", color: "fg" },
    body: { fontSize: "sm", fontVariantNumeric: "tabular-nums" },
    ".range": { width: "100%", accentColor: "{colors.fg}", height: "20px", cursor: "pointer" },
    // Components wait for their animations' ends, so these are short. Of transitions there are none: a short duration
    // would start one for every property of every element that changes, thousands with each change of the theme.
    "*": { _motionReduce: { animationDuration: "0.01ms !important", transition: "none !important" } },
    "*:focus-visible": { outline: "2px solid {colors.focus}", outlineOffset: "1px" },
  },
  theme: {
    tokens: {
      fonts: {
        body: { value: "'Atkinson Hyperlegible Next Variable', sans-serif" },
        heading: { value: "'Atkinson Hyperlegible Next Variable', sans-serif" },
        mono: { value: "'Atkinson Hyperlegible Mono Variable', monospace" },
      },
    },
    semanticTokens: {
      colors: {
        ground: pair("#f6f8fb", "#0a1120"),
        raised: { DEFAULT: pair("#ffffff", "#101a2d"), high: pair("#e6ecf4", "#17233a") },
        line: pair("#cfd9e6", "#22304a"),
        fg: { DEFAULT: pair("#0d1728", "#f3f7fc"), quiet: pair("#4a5d78", "#9db0c8") },
        left: pair("#a86200", "#ffb547"),
        right: pair("#0072a8", "#6ad0ff"),
        mid: pair("#0d1728", "#f3f7fc"),
        side: pair("#7646c7", "#b794ff"),
        proved: pair("#0a7a4b", "#6fe3ad"),
        trouble: pair("#c4233f", "#ff8296"),
        focus: pair("#0072a8", "#6ad0ff"),
        range: pair("#0d172814", "#f3f7fc17"),
        hush: pair("#f6f8fbc4", "#0a1120b8"),
        bg: { DEFAULT: pair("#f6f8fb", "#0a1120"), panel: pair("#ffffff", "#101a2d") },
        border: { DEFAULT: pair("#cfd9e6", "#22304a") },
      },
    },
  },
});

export const system = createSystem(defaultConfig, config);
