/** Type, spaces, shapes, and how controls look: what components then only name. */
import "@fontsource-variable/atkinson-hyperlegible-mono";
import "@fontsource-variable/atkinson-hyperlegible-next";
import { createSystem, defaultConfig, defineConfig } from "@chakra-ui/react";
import {
  checkboxAnatomy,
  dialogAnatomy,
  fieldAnatomy,
  fieldsetAnatomy,
  nativeSelectAnatomy,
  progressAnatomy,
  radioGroupAnatomy,
  toastAnatomy,
} from "@chakra-ui/react/anatomy";
import { BORDERS, CHANNELS, GROUNDS, MEANINGS, type Pair } from "../shared/colors";

const token = ({ light, dark }: Pair) => ({ value: { base: light, _dark: dark } });
const tokens = <K extends string>(pairs: Record<K, Pair>) =>
  Object.fromEntries(Object.entries<Pair>(pairs).map(([name, pair]) => [name, token(pair)])) as Record<
    K,
    ReturnType<typeof token>
  >;
const same = (name: string) => ({ value: `{colors.${name}}` });

const { ground, raised, high } = GROUNDS;
const { fg, quiet, ...meanings } = MEANINGS;

/** Fields, choices and lists that one types into or picks from. */
const FIELD = { bg: "raised", borderColor: "control" };
const LABEL = { fontSize: "xs", fontWeight: 400, color: "fg.quiet" };

/** A slider's line and its handle, which browsers style by names of their own. */
const TRACK = { height: "4px", borderRadius: "2px", bg: "control" };
const THUMB = { appearance: "none", width: "14px", height: "14px", borderRadius: "50%", border: 0, bg: "fg" };

const config = defineConfig({
  globalCss: {
    "html, body, #root": { height: "100%", bg: "ground", color: "fg" },
    body: { fontSize: "sm", fontVariantNumeric: "tabular-nums" },
    // Components wait for their animations' ends, so these are short. Of transitions there are none: a short duration
    // would start one for every property of every element that changes, thousands with each change of the theme.
    ".range": {
      width: "100%",
      height: "20px",
      appearance: "none",
      bg: "transparent",
      cursor: "pointer",
      "&::-webkit-slider-runnable-track": TRACK,
      "&::-moz-range-track": TRACK,
      "&::-webkit-slider-thumb": { ...THUMB, marginTop: "-5px" },
      "&::-moz-range-thumb": THUMB,
    },
    "*": { _motionReduce: { animationDuration: "0.01ms !important", transition: "none !important" } },
    "*:focus-visible": { outline: "2px solid {colors.accent}", outlineOffset: "1px" },
  },
  theme: {
    tokens: {
      fonts: {
        body: { value: "'Atkinson Hyperlegible Next Variable', sans-serif" },
        heading: { value: "'Atkinson Hyperlegible Next Variable', sans-serif" },
        mono: { value: "'Atkinson Hyperlegible Mono Variable', monospace" },
      },
      // Five sizes; nothing is smaller. What Chakra calls 2xs and 2xl are the ends of the same five.
      fontSizes: {
        "2xs": { value: "12px" },
        xs: { value: "12px" },
        sm: { value: "13px" },
        md: { value: "15px" },
        lg: { value: "18px" },
        xl: { value: "24px" },
        "2xl": { value: "24px" },
      },
    },
    semanticTokens: {
      colors: {
        ground: token(ground),
        raised: { DEFAULT: token(raised), high: token(high) },
        fg: { DEFAULT: token(fg), quiet: token(quiet), muted: same("fg.quiet") },
        ...tokens(CHANNELS),
        ...tokens(meanings),
        ...tokens(BORDERS),
        range: { value: { base: `${fg.light}14`, _dark: `${fg.dark}17` } },
        hush: { value: { base: `${ground.light}c4`, _dark: `${ground.dark}b8` } },
        bg: { DEFAULT: same("ground"), panel: same("raised") },
        border: { DEFAULT: same("line"), emphasized: same("control") },
        // What buttons are made of where nothing else is said, and those that delete.
        gray: {
          solid: same("fg"),
          contrast: same("ground"),
          fg: same("fg"),
          subtle: same("raised.high"),
          muted: same("control"),
          focusRing: same("accent"),
        },
        red: {
          solid: same("danger"),
          contrast: same("ground"),
          fg: same("danger"),
          subtle: same("raised.high"),
        },
      },
      radii: { l1: { value: "{radii.md}" }, l2: { value: "{radii.md}" }, l3: { value: "{radii.md}" } },
    },
    layerStyles: {
      card: { value: { bg: "raised", borderRadius: "md", p: 4 } },
      chip: { value: { bg: "raised.high", borderRadius: "md", px: 2, lineHeight: "24px" } },
      /** At the head or the foot of a page. */
      bar: {
        value: {
          display: "flex",
          alignItems: "center",
          flexWrap: "wrap",
          flexShrink: 0,
          px: 4,
          minH: 14,
          borderColor: "line",
          "&:is(header)": { borderBottomWidth: 1 },
          "&:is(footer)": { borderTopWidth: 1 },
        },
      },
      /** Of a table or a list whose rows a line parts. */
      row: { value: { borderTopWidth: 1, borderColor: "line", py: 2 } },
      note: { value: { color: "fg.quiet", fontSize: "xs" } },
      figures: { value: { color: "fg.quiet", fontSize: "xs", fontFamily: "mono" } },
      meter: {
        value: {
          display: "grid",
          alignItems: "center",
          fontSize: "xs",
          fontFamily: "mono",
          lineHeight: "14px",
        },
      },
      track: { value: { bg: "raised.high", borderRadius: "sm", position: "relative", overflow: "hidden" } },
      callout: { value: { borderLeftWidth: 3, borderColor: "warning", pl: 3 } },
    },
    recipes: {
      button: {
        base: { fontWeight: 500 },
        variants: {
          variant: {
            solid: { fontWeight: 600 },
            outline: { borderColor: "control" },
            ghost: { color: "fg.quiet", _hover: { color: "fg" } },
          },
        },
        defaultVariants: { size: "xs" },
      },
      input: { variants: { variant: { outline: FIELD } }, defaultVariants: { size: "sm" } },
      textarea: { variants: { variant: { outline: FIELD } } },
    },
    // Each with all of its parts: a list is merged place by place.
    slotRecipes: {
      nativeSelect: {
        slots: nativeSelectAnatomy.keys(),
        variants: { variant: { outline: { field: FIELD } } },
        defaultVariants: { size: "sm" },
      },
      checkbox: {
        slots: checkboxAnatomy.keys(),
        base: { label: { fontWeight: 400 } },
        defaultVariants: { size: "sm" },
      },
      radioGroup: {
        slots: radioGroupAnatomy.keys(),
        base: {
          label: LABEL,
          item: { px: 2, py: 1, borderRadius: "md", _checked: { bg: "raised.high" } },
          itemText: { flex: 1, fontWeight: 400 },
        },
        defaultVariants: { size: "sm" },
      },
      field: { slots: fieldAnatomy.keys(), base: { label: LABEL } },
      fieldset: { slots: fieldsetAnatomy.keys(), base: { legend: LABEL } },
      progress: {
        slots: progressAnatomy.keys(),
        variants: {
          variant: { outline: { track: { bgColor: "raised.high" }, range: { bgColor: "accent" } } },
        },
        defaultVariants: { size: "xs" },
      },
      dialog: { slots: dialogAnatomy.keys(), base: { content: { bg: "raised" } } },
      toast: {
        slots: toastAnatomy.keys(),
        base: { root: { bg: "raised.high", color: "fg", borderWidth: 1, borderColor: "line" } },
      },
    },
  },
});

export const system = createSystem(defaultConfig, config);
