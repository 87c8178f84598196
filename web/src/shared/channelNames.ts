/** What channels are called: as their file names them, by their speakers, left and right, or by number. */
export const channelNames = (
  count: number,
  clip: { labels: readonly string[]; speakers: readonly string[] } | undefined,
): string[] =>
  Array.from(
    { length: count },
    (_, n) =>
      clip?.labels[n] ||
      (clip?.speakers[n] ?? (count === 2 ? ["left", "right"][n] : `channel ${n + 1}`) ?? ""),
  );
