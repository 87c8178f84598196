/** The pictures there are, in the order they are offered, and which clips each can show. */

export type PictureName = "wave" | "spectrum" | "bands" | "map";
export type Accepts = (channels: number) => boolean;

export const ACCEPTS: Record<PictureName, Accepts> = {
  wave: () => true,
  spectrum: (channels) => channels <= 2,
  bands: (channels) => channels <= 2,
  map: (channels) => channels === 2,
};
export const PICTURE_NAMES = Object.keys(ACCEPTS) as PictureName[];

/** The picture that was chosen, or the waveform where it can't show so many channels. */
export const acceptedPicture = (picture: PictureName, channels: number): PictureName =>
  ACCEPTS[picture](channels) ? picture : "wave";

export function nextPicture(picture: PictureName, channels: number): PictureName {
  const accepting = PICTURE_NAMES.filter((name) => ACCEPTS[name](channels));
  return accepting[(accepting.indexOf(picture) + 1) % accepting.length] ?? "wave";
}

export const isPicture = (name: string | null): name is PictureName => name !== null && name in ACCEPTS;
