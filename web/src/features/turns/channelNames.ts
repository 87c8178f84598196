/** What the channels of a clip are called: by their speakers where it has them, left and right, or by number. */
export const channelNames = (count: number, speakers: readonly string[]) =>
  Array.from(
    { length: count },
    (_, n) => speakers[n] ?? (count === 2 ? ["left", "right"][n] : `channel ${n + 1}`) ?? "",
  );
