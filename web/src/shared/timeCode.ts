/** Time code as it is typed, `01:00:00:12`, and where it lies in a clip. */

/**
 * What a time code is read by: the frame rate as people say it, and the start in samples after midnight; without a start
 * none is taken.
 */
export type Timed = { rate: number; start_time?: number | null; frame_rate?: string | null };

const CODE = /^(\d{1,2}):([0-5]\d):([0-5]\d)([:;])(\d{2,3})(?:@(\d{1,6}(?:\.\d{1,6})?))?$/;
const DAY = 86_400;

export const isTimeCode = (text: string) => CODE.test(text);

/** Seconds from the start of a clip, or from midnight; in words why it is no place in it; null where it is no time code. */
export function parseTimeCode(text: string, clip: Timed, ofDay = false): number | string | null {
  const found = CODE.exec(text);
  if (!found || (clip.start_time === undefined && !ofDay)) return null;
  const [, hours, minutes, seconds, mark, frames, ownRate] = found;
  const start = clip.start_time ?? null;
  if (start === null && !ofDay)
    return "The file doesn't say when it was recorded: enter seconds from its start.";
  const frameRate = ownRate ?? clip.frame_rate?.split(" ")[0];
  if (!frameRate) return `The frame rate isn't known: enter it behind the time code, as in ${text}@25.`;
  const counted = Math.round(Number(frameRate));
  const [per, thousandths] = rateOf(Number(frameRate), counted);
  const drops =
    counted % 30 === 0 &&
    thousandths > 1000 &&
    (mark === ";" || (!ownRate && clip.frame_rate?.includes("drop")));
  const minute = 60 * Number(hours) + Number(minutes);
  const dropped = drops ? counted / 15 : 0;
  const first = minute % 10 && !Number(seconds) ? dropped : 0;
  if (Number(hours) > 23 || Number(frames) < first || Number(frames) >= counted)
    return `${text} is not a time code at ${frameRate} frames a second.`;
  const skipped = dropped * (minute - Math.floor(minute / 10));
  const number = (60 * minute + Number(seconds)) * counted + Number(frames) - skipped;
  const sample = Math.round((number * thousandths * clip.rate) / (per * 1000));
  if (ofDay || start === null) return sample / clip.rate;
  const day = DAY * clip.rate;
  const frame = sample - (start % day);
  // A recording that went on past midnight has it on the next day.
  if (frame >= 0 || frame + day < day / 2) return (frame < 0 ? frame + day : frame) / clip.rate;
  return `${text} lies before the start of the file.`;
}

/** A frame rate as so many frames in so many thousandths of a second: those near 24, 30 and 60 are 1000/1001 of that. */
const rateOf = (frameRate: number, counted: number): readonly [number, number] =>
  frameRate !== counted && Math.abs((counted * 1000) / 1001 - frameRate) < 0.015
    ? [counted, 1001]
    : [frameRate, 1000];
