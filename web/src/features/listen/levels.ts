/** What the meters read: the levels of both ears and their correlation, from the samples that are heard. */

export const FLOOR = -60; // dBFS
const HOLD = 1500; // milliseconds
const FALL = 20; // dB a second
const SMOOTH = 0.2;

const decibels = (value: number) => (value > 1e-6 ? 20 * Math.log10(value) : Number.NEGATIVE_INFINITY);

export type Level = {
  /** In dBFS, falling slowly. */
  shown: number;
  /** The highest peak of the last moments, in dBFS. */
  held: number;
  since: number;
  /** A sample went beyond full scale since this was cleared. */
  over: boolean;
};
const silent = (): Level => ({ shown: FLOOR, held: FLOOR, since: 0, over: false });

export class Levels {
  readonly ears: readonly [Level, Level] = [silent(), silent()];
  /** +1 … −1; null before anything has sounded, and when nothing sounds any more. */
  correlation: number | null = null;
  private readonly peaks = [0, 0];
  private heardSince = false;

  /** Samples of the left and right ear in turn. */
  take(heard: Float32Array) {
    let [left, right, both, highLeft, highRight] = [0, 0, 0, 0, 0];
    for (let n = 0; n + 1 < heard.length; n += 2) {
      const [a, b] = [heard[n] ?? 0, heard[n + 1] ?? 0];
      highLeft = Math.max(highLeft, Math.abs(a));
      highRight = Math.max(highRight, Math.abs(b));
      left += a * a;
      right += b * b;
      both += a * b;
    }
    this.peaks[0] = Math.max(this.peaks[0] ?? 0, highLeft);
    this.peaks[1] = Math.max(this.peaks[1] ?? 0, highRight);
    this.heardSince = true;
    if (left < 1e-9 || right < 1e-9) return;
    const now = both / Math.sqrt(left * right);
    this.correlation = this.correlation === null ? now : this.correlation + SMOOTH * (now - this.correlation);
  }

  /** Go on by so many milliseconds; whether anything still moves. */
  pass(milliseconds: number, now: number): boolean {
    const fall = (FALL * milliseconds) / 1000;
    this.ears.forEach((level, n) => {
      const peak = decibels(this.peaks[n] ?? 0);
      level.shown = Math.max(peak, level.shown - fall, FLOOR);
      if (peak >= level.held) [level.held, level.since] = [Math.max(peak, FLOOR), now];
      else if (now - level.since > HOLD) level.held = Math.max(FLOOR, level.held - fall);
      if ((this.peaks[n] ?? 0) > 1) level.over = true;
      this.peaks[n] = 0;
    });
    const moves = this.ears.some((level) => level.held > FLOOR || level.shown > FLOOR);
    if (!this.heardSince && !moves) this.correlation = null;
    this.heardSince = false;
    return moves;
  }

  clearOver() {
    for (const level of this.ears) level.over = false;
  }
}
