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

const NAMES = ["left", "right", "mid", "side", "line", "quiet", "trouble", "range", "fg", "ground"] as const;
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

type Size = { width: number; height: number };

/** Set a canvas up for the screen's pixels, empty. */
function prepared(canvas: HTMLCanvasElement, { width, height }: Size, mode: ColorMode): Surface | null {
  const context = canvas.getContext("2d");
  if (!context) return null;
  const ratio = window.devicePixelRatio || 1;
  const [across, down] = [Math.round(width * ratio), Math.round(height * ratio)];
  if (canvas.width === across && canvas.height === down) context.reset();
  else Object.assign(canvas, { width: across, height: down });
  context.scale(ratio, ratio);
  return { context, width, height, ratio, ...lookOf(mode, canvas) };
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
    const redraw = () => latest.current();
    const sizes = new ResizeObserver(([entry]) => {
      if (!entry) return;
      const { width, height } = entry.contentRect;
      size.current = { width: Math.round(width), height: Math.round(height) };
      redraw();
    });
    sizes.observe(element);
    const pixels = window.matchMedia(`(resolution: ${window.devicePixelRatio}dppx)`);
    pixels.addEventListener("change", redraw);
    return () => {
      sizes.disconnect();
      pixels.removeEventListener("change", redraw);
    };
  }, []);
  return canvas;
}
