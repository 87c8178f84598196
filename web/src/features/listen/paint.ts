/** Setting a canvas up for the screen's pixels, and the theme's colours as a canvas takes them. */

export function prepared(canvas: HTMLCanvasElement | null) {
  const context = canvas?.getContext("2d");
  if (!canvas || !context) return null;
  const ratio = window.devicePixelRatio || 1;
  const { clientWidth: width, clientHeight: height } = canvas;
  canvas.width = width * ratio;
  canvas.height = height * ratio;
  context.scale(ratio, ratio);
  return { context, width, height, ratio };
}

export function colors() {
  const style = getComputedStyle(document.documentElement);
  const read = (name: string) => style.getPropertyValue(`--chakra-colors-${name}`).trim();
  return {
    left: read("left"),
    right: read("right"),
    mid: read("mid"),
    side: read("side"),
    line: read("line"),
    quiet: read("fg-quiet"),
    trouble: read("trouble"),
    range: read("range"),
    fg: read("fg"),
    ground: read("ground"),
  };
}
