/** Contrasts as WCAG 2.2 defines them (1.4.3 for text, 1.4.11 for what is drawn), from the colours themselves. */
import { describe, expect, it } from "vitest";
import { BORDERS, CHANNELS, GROUNDS, MEANINGS, type Pair, PEAK_ALPHA } from "./colors";

const THEMES = ["light", "dark"] as const;
type Theme = (typeof THEMES)[number];

const channels = (color: string) => [1, 3, 5].map((at) => Number.parseInt(color.slice(at, at + 2), 16) / 255);

/** https://www.w3.org/TR/WCAG22/#dfn-relative-luminance */
const luminance = (rgb: number[]) => {
  const [r = 0, g = 0, b = 0] = rgb.map((c) => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4));
  return 0.2126 * r + 0.7152 * g + 0.0722 * b;
};

function contrast(one: number[], other: number[]) {
  const [dark = 0, bright = 0] = [luminance(one), luminance(other)].sort((a, b) => a - b);
  return (bright + 0.05) / (dark + 0.05);
}

const over = (color: number[], ground: number[], alpha: number) =>
  color.map((c, n) => alpha * c + (1 - alpha) * (ground[n] ?? 0));

const cases = (colors: Record<string, Pair>) =>
  THEMES.flatMap((theme) =>
    Object.entries(colors).flatMap(([name, color]) =>
      Object.entries(GROUNDS).map(([ground, under]) => ({
        name,
        ground,
        theme,
        color: channels(color[theme]),
        under: channels(under[theme]),
      })),
    ),
  );

it("computes contrasts as published", () => {
  // https://www.w3.org/TR/WCAG22/#dfn-contrast-ratio: from 1 to 21; #767676 on white is the well-known 4.54.
  expect(contrast([0, 0, 0], [1, 1, 1])).toBeCloseTo(21);
  expect(contrast(channels("#767676"), [1, 1, 1])).toBeCloseTo(4.54, 2);
});

describe("text and letters", () => {
  it.each(cases({ ...CHANNELS, ...MEANINGS }))("$name on $ground, $theme: 4.5", ({ color, under }) => {
    expect(contrast(color, under)).toBeGreaterThanOrEqual(4.5);
  });
});

describe("what is drawn", () => {
  it.each(cases({ control: BORDERS.control }))("$name on $ground, $theme: 3", ({ color, under }) => {
    expect(contrast(color, under)).toBeGreaterThanOrEqual(3);
  });

  it.each(cases(CHANNELS).filter(({ ground }) => ground === "ground"))(
    "peaks of $name, $theme: 3",
    ({ color, under }) => {
      expect(contrast(over(color, under, PEAK_ALPHA), under)).toBeGreaterThanOrEqual(3);
    },
  );
});

it("gives each meaning a colour of its own", () => {
  for (const theme of THEMES as readonly Theme[]) {
    const { mid: _, ...sides } = CHANNELS;
    const all = Object.values({ ...sides, ...MEANINGS }).map((color) => color[theme]);
    expect(new Set(all).size).toBe(all.length);
  }
});
