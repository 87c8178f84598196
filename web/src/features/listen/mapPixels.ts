/** The pixels of a map: its cells on the fan, each in the colour of its direction, as bright as it is loud. */
import type { Surface } from "../../shared/canvas";
import { type Fan, fanIn, placeAt } from "./fanGeometry";

export const [ROWS, COLUMNS] = [96, 61];
/** In dB: so far below the loudest place nothing is drawn; and what stands for nothing at all. */
const FLOOR = -55;
const SILENT = -120;

/** Brightness for energy, in the colours of the directions; each pixel of the screen looks up its own place. */
export function drawMap(
  { context, width, height, ratio, colors }: Surface,
  map: Float32Array,
  after: Float32Array | null,
) {
  const fan = fanIn(width, height);
  const [across, down] = [Math.round(width * ratio), Math.round(height * ratio)];
  if (!across || !down) return;
  const { cells, image } = cellsOf(fan, across, down, ratio);
  const [pixels, shade] = [new Uint32Array(image.data.buffer), shadesOf(map, after, colors)];
  for (let pixel = 0; pixel < pixels.length; pixel++) pixels[pixel] = shade[cells[pixel] as number] as number;
  context.putImageData(image, 0, 0); // in pixels of the screen, whatever the scale of the context
}

/** The cell of a pixel that no cell covers: one after the last. */
const OUTSIDE = ROWS * COLUMNS;
/** Which cell each pixel shows, for the fan that was drawn last: it changes with its size alone. */
type Cells = { fan: Fan; across: number; down: number; cells: Uint16Array; image: ImageData };
let shown: Cells | null = null;

function cellsOf(fan: Fan, across: number, down: number, ratio: number): Cells {
  if (shown && shown.across === across && shown.down === down && shown.fan.outer === fan.outer) return shown;
  const cells = new Uint16Array(across * down).fill(OUTSIDE);
  for (let row = 0; row < down; row++)
    for (let column = 0; column < across; column++) {
      const { pan, up } = placeAt(fan, { x: (column + 0.5) / ratio, y: (row + 0.5) / ratio });
      if (pan < -1 || pan > 1 || up < 0 || up > 1) continue;
      cells[row * across + column] =
        Math.min(ROWS - 1, Math.floor(up * ROWS)) * COLUMNS + Math.round(((pan + 1) / 2) * (COLUMNS - 1));
    }
  shown = { fan, across, down, cells, image: new ImageData(across, down) };
  return shown;
}

/** The colour of each cell of the map as a pixel has it, of what was taken, and of what lies outside: nothing. */
export function shadesOf(
  map: Float32Array,
  after: Float32Array | null,
  colors: Surface["colors"],
): Uint32Array {
  const pixels = new Uint32Array(map.length + 1);
  const bytes = new Uint8ClampedArray(pixels.buffer);
  const { ground: under, left: toLeft, mid: between, right: toRight, accent } = colors;
  const [ground, left, mid, right, taken] = [under, toLeft, between, toRight, accent].map(rgb);
  const loudest = map.reduce((most, level) => Math.max(most, level), SILENT);
  for (let cell = 0; cell < map.length; cell++) {
    const loud = Math.max(0, Math.min(1, 1 - ((map[cell] ?? SILENT) - loudest) / FLOOR)) ** 1.4;
    const gone = after ? 1 - Math.min(1, 10 ** (((after[cell] ?? SILENT) - (map[cell] ?? SILENT)) / 10)) : 0;
    const pan = ((cell % COLUMNS) / (COLUMNS - 1)) * 2 - 1;
    const end = pan < 0 ? left : right;
    for (let n = 0; n < 3; n++) {
      const hue = (mid?.[n] ?? 0) * (1 - Math.abs(pan)) + (end?.[n] ?? 0) * Math.abs(pan);
      const shade = hue * (1 - gone) + (taken?.[n] ?? 0) * gone;
      bytes[4 * cell + n] = (ground?.[n] ?? 0) * (1 - loud) + shade * loud;
    }
    bytes[4 * cell + 3] = 255;
  }
  return pixels;
}

/** A colour of the theme as numbers; the theme writes #rrggbb. */
function rgb(color: string | undefined): [number, number, number] {
  const value = Number.parseInt((color ?? "#000000").slice(1), 16);
  return [(value >> 16) & 255, (value >> 8) & 255, value & 255];
}
