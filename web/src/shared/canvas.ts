/** A canvas that is drawn anew when its size, the screen's pixels, the theme or what it shows changes. */
import { type RefObject, useEffect, useRef } from "react";
import { type ColorMode, useColorMode } from "./colorMode";

export type ThemeColors = Readonly<Record<(typeof NAMES)[number], string>>;
/** Width and height in pixels of the page; `ratio` pixels of the screen to one of them. */
export type Surface = {
  context: CanvasRenderingContext2D;
  width: number;
  height: number;
  ratio: number;
  colors: ThemeColors;
  /** The theme's family of type. */
  font: string;
};

/** The size of type in pictures, in pixels. */
export const TYPE = 12;

/** Text on a ground of its own, so that what is drawn below it leaves it readable. */
export function writeLabel({ context, colors, font }: Surface, text: string, x: number, y: number) {
  context.font = `${TYPE}px ${font}`;
  context.textBaseline = "middle";
  const { width } = context.measureText(text);
  context.globalAlpha = 0.75;
  context.fillStyle = colors.ground;
  context.fillRect(x - 2, y - TYPE / 2 - 1, width + 4, TYPE + 2);
  context.globalAlpha = 1;
  context.fillStyle = colors.quiet;
  context.fillText(text, x, y);
}

const NAMES = [
  "left",
  "right",
  "mid",
  "side",
  "line",
  "quiet",
  "negative",
  "accent",
  "range",
  "fg",
  "ground",
] as const;
const VARIABLES: Partial<Record<(typeof NAMES)[number], string>> = { quiet: "fg-quiet" };

type Look = Pick<Surface, "colors" | "font">;
/** Read once for each theme: asking for a style has the page's styles computed anew. */
const looks = new Map<ColorMode, Look>();

/** The theme's colours and type as a canvas takes them. */
function lookOf(mode: ColorMode, canvas: HTMLCanvasElement): Look {
  const known = looks.get(mode);
  if (known) return known;
  const style = getComputedStyle(document.documentElement);
  const read = (name: (typeof NAMES)[number]) =>
    style.getPropertyValue(`--chakra-colors-${VARIABLES[name] ?? name}`).trim();
  const colors = Object.fromEntries(NAMES.map((name) => [name, read(name)])) as ThemeColors;
  const look = { colors, font: getComputedStyle(canvas).fontFamily };
  looks.set(mode, look);
  return look;
}

/** In pixels of the page, and in pixels of the screen, of which there may be fractions to one of the page. */
type Size = { width: number; height: number; across: number; down: number };

/** Set a canvas up for the screen's pixels, empty. */
function prepared(canvas: HTMLCanvasElement, size: Size, mode: ColorMode): Surface | null {
  const context = canvas.getContext("2d");
  const { across, down, width, height } = size;
  if (!context || !across || !down) return null;
  if (canvas.width === across && canvas.height === down) context.reset();
  else Object.assign(canvas, { width: across, height: down });
  const ratio = across / width;
  context.scale(ratio, down / height);
  return { context, width, height, ratio, ...lookOf(mode, canvas) };
}

/** The size of an element as the observer tells it, in whole pixels of the screen where the browser knows them. */
function sizeIn({ contentRect, devicePixelContentBoxSize }: ResizeObserverEntry): Size {
  const { width, height } = contentRect;
  const ratio = window.devicePixelRatio || 1;
  const pixels = (length: number, told: number | undefined) =>
    told !== undefined && Math.abs(told - length * ratio) < 1 ? told : Math.round(length * ratio);
  const [box] = devicePixelContentBoxSize ?? [];
  return { width, height, across: pixels(width, box?.inlineSize), down: pixels(height, box?.blockSize) };
}

/** The canvas that `draw` fills; `draw` is called again when it is another function. */
export function useCanvas(draw: (surface: Surface) => void): RefObject<HTMLCanvasElement | null> {
  const canvas = useRef<HTMLCanvasElement>(null);
  /** As the browser tells it after laying out: asked for, it would lay the page out once more. */
  const size = useRef<Size | null>(null);
  const latest = useRef(() => {});
  const mode = useColorMode();
  useEffect(() => {
    latest.current = () => {
      const surface = canvas.current && size.current && prepared(canvas.current, size.current, mode);
      if (surface) draw(surface);
    };
    latest.current();
  }, [draw, mode]);
  useEffect(() => {
    const element = canvas.current;
    if (!element) return;
    const sizes = new ResizeObserver(([entry]) => {
      if (!entry) return;
      size.current = sizeIn(entry);
      latest.current();
    });
    try {
      // Told anew when the page moves to a screen with other pixels, too.
      sizes.observe(element, { box: "device-pixel-content-box" });
    } catch {
      sizes.observe(element);
    }
    return () => sizes.disconnect();
  }, []);
  return canvas;
}
