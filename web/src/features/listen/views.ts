/** What look-and-listen shows. */
export const VIEWS = ["wave", "spectrum", "bands", "map"] as const;
export type LookView = (typeof VIEWS)[number];

export const VIEW_LABELS: Record<LookView, { short: string; title: string }> = {
  wave: { short: "Waveform", title: "Both sides along time (v goes on to the next picture)" },
  spectrum: { short: "Spectrum", title: "Levels along frequency, over the range or all of it" },
  map: { short: "Map", title: "Energy by direction and frequency" },
  bands: { short: "Bands", title: "Correlation of each third of an octave" },
};

const NOTES = ["C", "C♯", "D", "D♯", "E", "F", "F♯", "G", "G♯", "A", "A♯", "B"];

/** The nearest note in equal temperament at A4 = 440 Hz, and how many cents off it is. */
export function noteOf(hertz: number): string {
  const place = 69 + 12 * Math.log2(hertz / 440);
  const nearest = Math.round(place);
  const cents = Math.round(100 * (place - nearest));
  const name = NOTES[((nearest % 12) + 12) % 12];
  return `${name}${Math.floor(nearest / 12) - 1} ${cents >= 0 ? "+" : "−"}${Math.abs(cents)}`;
}

export const hertzText = (hertz: number) =>
  hertz < 1000 ? `${hertz.toFixed(1)} Hz` : `${(hertz / 1000).toFixed(2)} kHz`;

/** Where a frequency stands on an axis of logarithms from 20 Hz to half the rate, 0 … 1. */
export const LOWEST = 20;
export const toAxis = (hertz: number, rate: number) =>
  Math.log(Math.max(hertz, LOWEST) / LOWEST) / Math.log(rate / 2 / LOWEST);
export const fromAxis = (place: number, rate: number) => LOWEST * (rate / 2 / LOWEST) ** place;

/** The highest level of the lines of a spectrum that fall into each of so many columns; between lines, along a line. */
export function columns(levels: readonly number[], step: number, rate: number, width: number): Float32Array {
  const made = new Float32Array(width);
  for (let x = 0; x < width; x++) {
    const low = fromAxis(x / width, rate) / step;
    const high = fromAxis((x + 1) / width, rate) / step;
    let top = Number.NEGATIVE_INFINITY;
    for (let n = Math.ceil(low); n < high; n++) top = Math.max(top, levels[n] ?? Number.NEGATIVE_INFINITY);
    if (top === Number.NEGATIVE_INFINITY) {
      const at = (low + high) / 2;
      const [below, above] = [levels[Math.floor(at)] ?? -180, levels[Math.ceil(at)] ?? -180];
      top = below + (above - below) * (at - Math.floor(at));
    }
    made[x] = top;
  }
  return made;
}
