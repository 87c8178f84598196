/** What a picture shows, in a sentence: its name for those who don't see it. */
import type { Analysis } from "../../api/client";
import { correlation, panned, signed } from "../../shared/format";
import { hertzText } from "./frequency";

/** The place of the largest value. */
function peak(values: ArrayLike<number>): number {
  let best = 0;
  for (let n = 1; n < values.length; n++) if ((values[n] ?? 0) > (values[best] ?? 0)) best = n;
  return best;
}

export function spectrumInWords(analysis: Analysis, midSide: boolean): string {
  const { left, right, mid, side, step_hz } = analysis;
  const levelOf = (name: string, levels: readonly number[]) => {
    const at = peak(levels);
    return levels.length
      ? [`${name} is loudest at ${hertzText(at * step_hz)}, ${signed(levels[at] ?? 0)} dB.`]
      : [];
  };
  if (midSide) return [...levelOf("Mid", mid), ...levelOf("Side", side)].join(" ");
  return [...levelOf(right.length ? "Left" : "It", left), ...levelOf("Right", right)].join(" ");
}

export function bandsInWords({ bands }: Analysis): string {
  const heard = bands.flatMap(({ hz, correlation, level_db }) =>
    correlation === null ? [] : [{ hz, correlation, level_db }],
  );
  const [first] = heard;
  if (!first) return "Silent in every band.";
  const loudest = heard.reduce((best, band) => (band.level_db > best.level_db ? band : best), first);
  const lowest = heard.reduce((best, band) => (band.correlation < best.correlation ? band : best), first);
  const negative = heard.filter(({ correlation }) => correlation < 0).length;
  return [
    `Loudest around ${hertzText(loudest.hz)}, correlation ${correlation(loudest.correlation)}.`,
    `Lowest correlation ${correlation(lowest.correlation)} around ${hertzText(lowest.hz)};`,
    `negative in ${negative} of ${heard.length} bands.`,
  ].join(" ");
}

/** `field` is energy by direction from 90° right to 90° left, where 45° is one channel alone and 90° opposite polarity. */
export function fieldInWords(field: readonly number[]): string {
  const at = peak(field);
  if (!((field[at] ?? 0) > 0)) return "Silent.";
  const degrees = Math.round(-90 + ((at + 0.5) * 180) / field.length);
  if (Math.abs(degrees) > 67.5) return "Most energy is out of polarity.";
  if (Math.abs(degrees) < 8) return "Most energy is in the centre.";
  return `Most energy is ${Math.abs(degrees)}° ${degrees > 0 ? "left" : "right"}.`;
}

/** `map` is energy in dB by frequency, row by row from the lowest, and by direction from left to right. */
export function mapInWords(map: Float32Array, columns: number, hertzOf: (place: number) => number): string {
  const at = peak(map);
  const rows = map.length / columns;
  const across = ((at % columns) / (columns - 1)) * 2 - 1;
  const place = Math.round(across * 50) / 50;
  return `Loudest at ${hertzText(hertzOf((Math.floor(at / columns) + 0.5) / rows))}, ${panned(place)}.`;
}

/** How much of the energy of such a map lies where `holds` says, by pan position from −1 to 1 and place along frequency. */
export function shareInWords(
  map: Float32Array,
  columns: number,
  holds: (pan: number, up: number) => boolean,
): string {
  const rows = map.length / columns;
  let [inside, whole] = [0, 0];
  map.forEach((level, cell) => {
    const energy = 10 ** (level / 10);
    whole += energy;
    const pan = ((cell % columns) / (columns - 1)) * 2 - 1;
    if (holds(pan, (Math.floor(cell / columns) + 0.5) / rows)) inside += energy;
  });
  return whole > 0 ? `${Math.round((100 * inside) / whole)} % of the energy is inside the wedge.` : "";
}
