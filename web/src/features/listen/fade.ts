/** Sound of two ears: added up from blocks, and faded from what was heard to what is. */
import { SIDES, type Side } from "./messages";

export type Stereo = readonly [Float32Array, Float32Array];
export const silence = (frames: number): Stereo => [new Float32Array(frames), new Float32Array(frames)];

/** What would have been heard next without a switch, faded out while what is heard fades in. */
export class Tail {
  private at = 0;

  constructor(private readonly sound: Stereo) {}

  copy(): Tail {
    const copy = new Tail(this.sound);
    copy.at = this.at;
    return copy;
  }

  /** Lay the next `run` frames under those of `out` from `from` on; true when the tail has ended. */
  under(out: Stereo, from: number, run: number): boolean {
    const frames = this.sound[0].length;
    for (let i = 0; i < Math.min(run, frames - this.at); i++) {
      const share = (this.at + i) / frames;
      for (const ear of SIDES)
        out[ear][from + i] =
          share * (out[ear][from + i] ?? 0) + (1 - share) * (this.sound[ear][this.at + i] ?? 0);
    }
    this.at += run;
    return this.at >= frames;
  }
}

type Place = { out: Float32Array; ear: Side; from: number; run: number; at: number };

/** Add `run` frames of a block, from its frame `at` on, to `out` from `from` on: each channel with its gain for the ear. */
export function addBlock(
  { out, ear, from, run, at }: Place,
  { channels, data }: { channels: number; data: Float32Array },
  gains: readonly number[],
  sign: 1 | -1,
) {
  for (let c = 0; c < channels; c++) {
    const gain = sign * (gains[ear * channels + c] ?? 0);
    if (gain === 0) continue;
    for (let i = 0; i < run; i++)
      out[from + i] = (out[from + i] ?? 0) + gain * (data[(at + i) * channels + c] ?? 0);
  }
}
