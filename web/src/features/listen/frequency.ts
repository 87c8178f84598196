/** Frequencies: as text, as notes, and on a logarithmic axis. */

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

/** An axis of logarithms from `lowest` to half the rate: `to` gives a place 0 … 1, `from` the frequency there. */
export function logAxis(rate: number, lowest = 20) {
  const octaves = Math.log(rate / 2 / lowest);
  return {
    lowest,
    to: (hertz: number) => Math.min(1, Math.log(Math.max(hertz, lowest) / lowest) / octaves),
    from: (place: number) => lowest * Math.exp(octaves * Math.max(0, Math.min(1, place))),
  };
}
export type LogAxis = ReturnType<typeof logAxis>;

/** The highest level of the lines of a spectrum that fall into each of so many columns; between lines, along a line. */
export function columns(levels: readonly number[], step: number, axis: LogAxis, width: number): Float32Array {
  const out = new Float32Array(width);
  for (let x = 0; x < width; x++) {
    const low = axis.from(x / width) / step;
    const high = axis.from((x + 1) / width) / step;
    let top = Number.NEGATIVE_INFINITY;
    for (let n = Math.ceil(low); n < high; n++) top = Math.max(top, levels[n] ?? Number.NEGATIVE_INFINITY);
    if (top === Number.NEGATIVE_INFINITY) {
      const at = (low + high) / 2;
      const [below, above] = [levels[Math.floor(at)] ?? -180, levels[Math.ceil(at)] ?? -180];
      top = below + (above - below) * (at - Math.floor(at));
    }
    out[x] = top;
  }
  return out;
}
