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

/** The theme's colours as a canvas takes them. */
function themeColors(_mode: ColorMode): ThemeColors {
  const style = getComputedStyle(document.documentElement);
  const read = (name: (typeof NAMES)[number]) =>
    style.getPropertyValue(`--chakra-colors-${VARIABLES[name] ?? name}`).trim();
  return Object.fromEntries(NAMES.map((name) => [name, read(name)])) as ThemeColors;
}

/** Set a canvas up for the screen's pixels, empty. */
function prepared(canvas: HTMLCanvasElement, mode: ColorMode): Surface | null {
  const context = canvas.getContext("2d");
  if (!context) return null;
  const ratio = window.devicePixelRatio || 1;
  const { clientWidth: width, clientHeight: height } = canvas;
  canvas.width = Math.round(width * ratio);
  canvas.height = Math.round(height * ratio);
  context.scale(ratio, ratio);
  return {
    context,
    width,
    height,
    ratio,
    colors: themeColors(mode),
    font: getComputedStyle(canvas).fontFamily,
  };
}

/** The canvas that `draw` fills; `draw` is called again when it is another function. */
export function useCanvas(draw: (surface: Surface) => void): RefObject<HTMLCanvasElement | null> {
  const canvas = useRef<HTMLCanvasElement>(null);
  const latest = useRef(() => {});
  const mode = useColorMode();
  useEffect(() => {
    latest.current = () => {
      const surface = canvas.current && prepared(canvas.current, mode);
      if (surface) draw(surface);
    };
    latest.current();
  }, [draw, mode]);
  useEffect(() => {
    const element = canvas.current;
    if (!element) return;
    const redraw = () => latest.current();
    const size = new ResizeObserver(redraw);
    size.observe(element);
    const pixels = window.matchMedia(`(resolution: ${window.devicePixelRatio}dppx)`);
    pixels.addEventListener("change", redraw);
    return () => {
      size.disconnect();
      pixels.removeEventListener("change", redraw);
    };
  }, []);
  return canvas;
}
