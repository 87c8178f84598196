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

const EDGE = { borderWidth: 1, borderColor: "line" };
const DASHED = { borderWidth: 2, borderStyle: "dashed", borderRadius: "md" };
const NOTICE = { bg: "raised.high", color: "fg" };
const PANEL = { bg: "raised", borderRadius: "md" };
const UNRINGED = { outline: "none", _focusVisible: { outline: "none" } };

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
    // How text stands, by what it is; its colour is a layer style.
    textStyles: {
      page: { value: { fontSize: "2xl", fontWeight: 700 } },
      part: { value: { fontSize: "xl", fontWeight: 700 } },
      title: { value: { fontSize: "lg", fontWeight: 700 } },
      time: { value: { fontSize: "md" } },
      prose: { value: { lineHeight: "tall" } },
      strong: { value: { fontWeight: 600 } },
      plain: { value: { fontWeight: 400 } },
      small: { value: { fontSize: "xs" } },
      mono: { value: { fontFamily: "mono" } },
      total: { value: { fontFamily: "mono", fontWeight: 600 } },
      figure: { value: { fontFamily: "mono", fontSize: "xs", fontWeight: 400 } },
    },
    layerStyles: {
      plain: { value: { color: "fg" } },
      quiet: { value: { color: "fg.quiet" } },
      ok: { value: { color: "ok" } },
      warning: { value: { color: "warning" } },
      danger: { value: { color: "danger" } },
      note: { value: { color: "fg.quiet", fontSize: "xs" } },
      figures: { value: { color: "fg.quiet", fontSize: "xs", fontFamily: "mono" } },
      banner: { value: { bg: "danger", color: "ground", textAlign: "center" } },
      card: { value: { ...PANEL, p: 4 } },
      panel: { value: PANEL },
      outlined: { value: { ...EDGE, borderRadius: "md" } },
      /** Over the page: tips, menus, lists of offers. */
      floating: { value: { ...EDGE, bg: "raised.high", color: "fg", borderRadius: "md" } },
      chip: { value: { bg: "raised.high", borderRadius: "md", px: 2, lineHeight: "24px" } },
      key: {
        value: {
          bg: "raised.high",
          color: "fg.quiet",
          borderRadius: "sm",
          px: 1,
          fontSize: "xs",
          fontFamily: "mono",
        },
      },
      callout: {
        value: {
          borderLeftWidth: 3,
          borderColor: "warning",
          pl: 3,
          "&[data-tone=danger]": { borderColor: "danger" },
          "&[data-tone=remark]": { borderColor: "line" },
        },
      },
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
      /** The panes beside the worksheet; where there is little room, above and below it. */
      sources: {
        value: { borderColor: "line", borderBottomWidth: { base: 1, lg: 0 }, borderRightWidth: { lg: 1 } },
      },
      aside: {
        value: {
          borderColor: "line",
          borderTopWidth: { base: 1, lg: 0 },
          borderLeftWidth: { lg: 1 },
          ...UNRINGED,
        },
      },
      /** It takes the focus so that it is read out, not to be worked at. */
      unringed: { value: UNRINGED },
      parted: { value: { borderTopWidth: 1, borderColor: "line" } },
      /** Of a table or a list whose rows a line parts. */
      row: { value: { borderTopWidth: 1, borderColor: "line", py: 2, "&[data-off]": { color: "fg.quiet" } } },
      /** One of many to choose from. */
      pick: {
        value: {
          borderRadius: "md",
          _hover: { bg: "raised" },
          "&:is([aria-selected=true], [aria-current=page] > *)": { bg: "raised" },
          "&:is([aria-current=page] > *)": { fontWeight: 600 },
          "&[aria-disabled=true]": { color: "fg.quiet" },
          "&[data-current]": { boxShadow: "inset 2px 0 {colors.fg.quiet}" },
          "&[data-preview]": { border: "1px dashed {colors.fg.quiet}" },
        },
      },
      file: { value: { _hover: { bg: "raised" }, "&[aria-selected=true]": { bg: "raised.high" } } },
      /** The row that the keys would go on from, in a list that no longer has them. */
      lastReached: { value: { outline: "2px dashed {colors.fg.quiet}", outlineOffset: "-2px" } },
      /** In the list of files: a turn that is offered, and what the list is filtered by. */
      offer: {
        value: {
          borderColor: "line",
          color: "fg",
          "&[data-grave]": { borderColor: "warning/60", color: "warning" },
        },
      },
      facet: {
        value: {
          borderRadius: "full",
          borderColor: "line",
          color: "fg.quiet",
          "&[aria-pressed=true]": { bg: "raised.high", borderColor: "accent", color: "fg" },
          "&[data-grave]": { color: "warning" },
        },
      },
      /** Holds the rows of one group together. */
      bracket: {
        value: {
          borderColor: "line",
          borderLeftWidth: 2,
          "&[data-place=first]": { borderTopWidth: 2 },
          "&[data-place=last]": { borderBottomWidth: 2 },
        },
      },
      hoverIcon: {
        value: {
          color: "fg.quiet",
          cursor: "pointer",
          borderRadius: "md",
          _hover: { bg: "raised.high", color: "fg" },
        },
      },
      /** Where files can be dropped, and where they are about to be. */
      dropHere: { value: { ...DASHED, borderColor: "control" } },
      dropping: { value: { ...DASHED, borderColor: "accent", bg: "ground/85" } },
      dropTarget: {
        value: {
          borderRadius: "md",
          "&[data-over]": { outline: "2px dashed {colors.accent}" },
          "&[data-missing]": { color: "warning" },
        },
      },
      /** A page of the guide, whose text is Markdown. */
      guide: {
        value: {
          "& h2": { fontWeight: 700, mt: 6, mb: 1 },
          "& p": { my: 2 },
          "& ol, & ul": { pl: 6, my: 2 },
          "& ol": { listStyle: "decimal" },
          "& ul": { listStyle: "disc" },
          "& li": { my: 1 },
          "& code": { fontFamily: "mono", fontSize: "xs", bg: "raised.high", px: 1, borderRadius: "sm" },
          // Of the pictures' shape before they are there, so that the text under them stays where it is.
          "& img": { ...EDGE, w: "full", aspectRatio: "16 / 10", borderRadius: "md", my: 4 },
        },
      },
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
      /** The highest level of a meter, until it falls. */
      hold: { value: { borderRightWidth: 2, borderColor: "fg" } },
      /** One of a few that stand together. Not by its own state: a tip writes another into the same place. */
      choice: {
        value: {
          borderRadius: "sm",
          color: "fg.quiet",
          "&[data-chosen]": { bg: "raised.high", color: "fg", fontWeight: 600 },
        },
      },
      /** The colour of what a voice takes, beside its name. */
      swatch: { value: { boxSize: 3, borderRadius: "sm", bg: "accent", flexShrink: 0 } },
      /** What is drawn over a picture. */
      range: { value: { bg: "range", borderXWidth: 1, borderColor: "fg.quiet" } },
      tick: { value: { borderLeftWidth: 1, borderColor: "line" } },
      hush: {
        value: {
          bg: "hush",
          border: "1px solid {colors.fg.quiet}",
          "&:not([aria-pressed=false])": { borderColor: "fg" },
          "&[aria-pressed=true]": { borderWidth: 2 },
        },
      },
      proposal: { value: { border: "1px dashed {colors.fg}", _hover: { bg: "range" } } },
    },
    recipes: {
      button: {
        base: { fontWeight: 500 },
        variants: {
          variant: {
            solid: { fontWeight: 600 },
            outline: {
              borderColor: "control",
              "&[aria-pressed=true]": { bg: "raised.high", borderColor: "fg" },
            },
            ghost: {
              color: "fg.quiet",
              _hover: { color: "fg" },
              _expanded: { bg: "raised.high", color: "fg" },
              "&[aria-pressed=true]": { bg: "raised.high", color: "fg", fontWeight: 600 },
            },
          },
        },
        defaultVariants: { size: "xs" },
      },
      input: {
        variants: { variant: { outline: FIELD, flushed: { borderColor: "transparent" } } },
        defaultVariants: { size: "sm" },
      },
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
        base: {
          root: { ...NOTICE, ...EDGE, "&[data-type=error]": { ...NOTICE, borderColor: "danger" } },
        },
      },
    },
  },
});

export const system = createSystem(defaultConfig, config);
