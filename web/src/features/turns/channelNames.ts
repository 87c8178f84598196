import type { Clip } from "../../api/client";

/** What the channels of a clip are called: as its file names them, by their speakers, left and right, or by number. */
export const channelNames = (count: number, clip: Pick<Clip, "labels" | "speakers"> | undefined) =>
  Array.from(
    { length: count },
    (_, n) =>
      clip?.labels[n] ||
      (clip?.speakers[n] ?? (count === 2 ? ["left", "right"][n] : `channel ${n + 1}`) ?? ""),
  );
