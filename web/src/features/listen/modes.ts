/** What is monitored, as gains. No hidden law: every factor stands here and in the button's title. */
export const MODES = ["stereo", "left", "right", "mono", "difference"] as const;
export type Mode = (typeof MODES)[number];

export const MODE_LABELS: Record<Mode, { short: string; title: string }> = {
  stereo: { short: "Stereo", title: "Stereo" },
  left: { short: "L", title: "Left only, both outputs" },
  right: { short: "R", title: "Right only, both outputs" },
  mono: { short: "Mono", title: "Mono: ½ L + ½ R, both outputs" },
  difference: { short: "L − R", title: "Difference: ½ L − ½ R, both outputs" },
};

/** Gains for the left ear, then the right, of a clip's channels; `pair` says which two are left and right. */
export function gainsFor(mode: Mode, channels: number, pair: readonly [number, number]): number[] {
  const gains = new Array<number>(2 * channels).fill(0);
  const [left, right] = channels === 1 ? ([0, 0] as const) : pair;
  const set = (ear: 0 | 1, channel: number, gain: number) => {
    const at = ear * channels + channel;
    gains[at] = (gains[at] ?? 0) + gain;
  };
  switch (mode) {
    case "stereo":
      set(0, left, 1);
      set(1, right, 1);
      break;
    case "left":
      set(0, left, 1);
      set(1, left, 1);
      break;
    case "right":
      set(0, right, 1);
      set(1, right, 1);
      break;
    case "mono":
    case "difference":
      for (const ear of [0, 1] as const) {
        set(ear, left, 0.5);
        set(ear, right, mode === "mono" ? 0.5 : -0.5);
      }
      break;
    default:
      mode satisfies never;
  }
  return gains;
}
