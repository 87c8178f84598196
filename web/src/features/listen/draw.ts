/** Drawing lanes on a canvas: the butterfly from afar, signed curves from near, the ribbon below. */

import { type Surface, writeLabel } from "../../shared/canvas";
import { PEAK_ALPHA } from "../../shared/colors";

export type Colors = Record<
  "left" | "right" | "mid" | "line" | "quiet" | "negative" | "range" | "fg",
  string
>;

/** Which rows of an interleaved picture to read: `at(bin)` gives the row's values, or null where none has arrived. */
export type Rows = { channels: number; at: (bin: number) => { data: Float32Array; offset: number } | null };

export type Frame = {
  context: CanvasRenderingContext2D;
  width: number;
  height: number;
  /** Pixels of the screen to one of the page. */
  ratio: number;
  start: number;
  scale: number;
  frames: number;
  /** Vertical enlargement. */
  gain: number;
  colors: Colors;
};

const channelColor = (colors: Colors, channel: number, channels: number) =>
  channels === 1 ? colors.mid : channels === 2 ? (channel === 0 ? colors.left : colors.right) : colors.mid;

/** For each column of the screen's pixels the bins below it: `visit(column, first, last)` with last excluded. */
function eachColumn(frame: Frame, per: number, visit: (column: number, first: number, last: number) => void) {
  const bins = Math.ceil(frame.frames / per);
  const scale = frame.scale / frame.ratio;
  for (let column = 0; column < Math.round(frame.width * frame.ratio); column++) {
    const first = Math.floor((frame.start + column * scale) / per);
    const last = Math.max(first + 1, Math.floor((frame.start + (column + 1) * scale) / per));
    if (first >= bins) break;
    if (first >= 0) visit(column, first, Math.min(last, bins));
  }
}

/** Stereo: left grows up from the axis, right down. Mono stands about the axis; more channels in strips. */
export function drawWaveform(frame: Frame, rows: Rows, per: number) {
  const { context, height, colors, gain } = frame;
  const { channels } = rows;
  const butterfly = channels === 2;
  const strip = butterfly ? height : height / channels;
  const one = 1 / frame.ratio;
  eachColumn(frame, per, (column, first, last) => {
    for (let c = 0; c < channels; c++) {
      let low = Infinity;
      let high = -Infinity;
      let squares = 0;
      let count = 0;
      for (let bin = first; bin < last; bin++) {
        const row = rows.at(bin);
        if (!row) return;
        low = Math.min(low, row.data[row.offset + 3 * c] ?? 0);
        high = Math.max(high, row.data[row.offset + 3 * c + 1] ?? 0);
        squares += (row.data[row.offset + 3 * c + 2] ?? 0) ** 2;
        count++;
      }
      const rms = Math.sqrt(squares / Math.max(1, count));
      const axis = butterfly ? height / 2 : strip * (c + 0.5);
      const unit = (strip / 2) * gain;
      const clip = (length: number) => Math.min(strip / 2, length * unit);
      context.fillStyle = channelColor(colors, c, channels);
      const bar = (from: number, to: number, alpha: number) => {
        context.globalAlpha = alpha;
        context.fillRect(column * one, Math.min(from, to), one, Math.max(Math.abs(to - from), 0.5));
      };
      if (butterfly) {
        const up = c === 0 ? -1 : 1;
        bar(axis, axis + up * clip(Math.max(Math.abs(low), Math.abs(high))), PEAK_ALPHA);
        bar(axis, axis + up * clip(rms), 1);
      } else {
        bar(axis - clip(Math.max(0, high)), axis + clip(Math.max(0, -low)), PEAK_ALPHA);
        bar(axis - clip(rms), axis + clip(rms), 1);
      }
    }
  });
  context.globalAlpha = 1;
}

/** Near enough to see samples: every channel a signed curve on one axis, with dots where samples are far apart. */
export function drawCurves(frame: Frame, rows: Rows) {
  const { context, height, width, colors, gain, scale, start } = frame;
  const first = Math.max(0, Math.floor(start) - 1);
  const last = Math.min(frame.frames - 1, Math.ceil(start + width * scale) + 1);
  const y = (value: number) => height / 2 - Math.max(-1, Math.min(1, value * gain)) * (height / 2 - 3);
  for (let c = 0; c < rows.channels; c++) {
    context.strokeStyle = context.fillStyle = channelColor(colors, c, rows.channels);
    context.lineWidth = 1.5;
    context.setLineDash(c === 1 ? [5, 2] : []);
    context.beginPath();
    let drawing = false;
    for (let t = first; t <= last; t++) {
      const row = rows.at(t);
      if (!row) {
        drawing = false;
        continue;
      }
      const x = (t - start) / scale;
      const value = y(row.data[row.offset + c] ?? 0);
      if (drawing) context.lineTo(x, value);
      else context.moveTo(x, value);
      drawing = true;
    }
    context.stroke();
    context.setLineDash([]);
    if (1 / scale < 6) continue;
    for (let t = first; t <= last; t++) {
      const row = rows.at(t);
      if (!row) continue;
      const [x, value] = [(t - start) / scale, y(row.data[row.offset + c] ?? 0)];
      context.beginPath();
      if (c === 0) context.arc(x, value, 3, 0, 7);
      else context.rect(x - 2.5, value - 2.5, 5, 5);
      context.fill();
    }
  }
}

/** Correlation along time: up from the middle line to +1, down to −1 in a colour of its own, with a pattern. */
export function drawRibbon(frame: Frame, rows: Rows, per: number) {
  const { context, height, colors } = frame;
  const middle = height / 2;
  context.fillStyle = colors.line;
  context.fillRect(0, Math.round(middle), frame.width, 1);
  const one = 1 / frame.ratio;
  eachColumn(frame, per, (column, first, last) => {
    let sum = 0;
    let count = 0;
    for (let bin = first; bin < last; bin++) {
      const row = rows.at(bin);
      const r = row ? row.data[row.offset] : Number.NaN;
      if (r === undefined || !(Math.abs(r) <= 1)) continue; // 2 where a channel is silent
      sum += r;
      count++;
    }
    if (!count) return;
    const r = sum / count;
    context.fillStyle = r < 0 ? colors.negative : colors.quiet;
    context.globalAlpha = r < 0 && Math.floor(column * one) % 4 === 3 ? 0.45 : 1;
    context.fillRect(
      column * one,
      r < 0 ? middle : middle - r * middle,
      one,
      Math.max(1, Math.abs(r) * middle),
    );
  });
  context.globalAlpha = 1;
}

const MARKS = [-3, -6, -12, -18, -24, -36, -48, -60]; // dBFS
const LEAST_APART = 15; // pixels

/** Levels in dBFS at the right edge, for every strip, as far apart as they can be read. */
export function drawScale(surface: Surface, strips: number, gain: number) {
  const { context, width, height, colors } = surface;
  const strip = height / strips;
  for (let n = 0; n < strips; n++) {
    const axis = strip * (n + 0.5);
    let last = strip / 2 + LEAST_APART / 2;
    for (const db of MARKS) {
      const distance = (strip / 2) * gain * 10 ** (db / 20);
      if (distance > last - LEAST_APART || distance < LEAST_APART) continue;
      last = distance;
      for (const y of [axis - distance, axis + distance]) {
        context.fillStyle = colors.quiet;
        context.fillRect(width - 5, Math.round(y), 5, 1);
        writeLabel(surface, String(db).replace("-", "−"), width - 5 - 7 * String(db).length, y);
      }
    }
  }
}

export function drawAxis(frame: Frame, rows: number) {
  const { context, width, height, colors } = frame;
  context.fillStyle = colors.line;
  for (let n = 0; n < rows; n++) context.fillRect(0, Math.round((height * (n + 0.5)) / rows), width, 1);
}
