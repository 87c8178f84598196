import { placesOf, RANGE_FADE_MS } from "../../../shared/places";
import { type Chosen, DEFAULT_KIND, forEach, offerAs, type TurnKind } from "../kind";
import { CentreSettings } from "../settings/Centre";
import { bandOf, highHz, lowHz } from "./band";

/** What is not made is what is left. */
const LABELS = {
  sides: ["Original", "Sides", "Centre"],
  both: ["Original", "Sides", "Centre"],
  centre: ["Original", "Centre", "Sides"],
} as const;

const VOCALS = ["vocals", "voice"];

/** One result, over the selected range where there is one. */
const offerVocals = (chosen: Chosen, keep: "sides" | "centre", does: string, ending: string) => {
  const { range, names } = chosen;
  return forEach(
    chosen,
    "centre",
    `${does} ${names}${range ? " over the selected range" : ""}`,
    () => ({ kind: "centre", keep }),
    (clip) => ({
      names: [`${clip.name}${ending}`],
      ...(range && { over: { ...placesOf(range, clip), fade_ms: RANGE_FADE_MS } }),
    }),
  );
};

export const centre: TurnKind<"centre"> = {
  ...DEFAULT_KIND,
  title: "Centre",
  words: ["center", "vocals", "voice", "karaoke", "lead", "instrumental", "remove", "keep", "extract"],
  offers: (chosen) => [
    // Both are heard while the wedge is set.
    forEach(chosen, "centre", `remove or isolate the voice or the centre of ${chosen.names}`, () => ({
      kind: "centre",
      keep: "both",
    })),
    ...offerAs("remove vocals", VOCALS, offerVocals(chosen, "sides", "remove vocals from", "_no-vocals")),
    ...offerAs("keep vocals", VOCALS, offerVocals(chosen, "centre", "keep only the vocals of", "_vocals")),
  ],
  Settings: CentreSettings,
  figure: "none",
  lanes: (step, turn) => ({ labels: LABELS[turn.keep], out: step.outputs.slice(0, 1), later: 0 }),
  overlay: {
    wedge: (turn, rate) => {
      if (turn.method !== "wedge") return null;
      const { position, opening, strength } = turn;
      const { low, high } = bandOf(turn);
      return { position, opening, strength, low, high: Math.min(high, rate / 2) };
    },
    showsTaken: (turn) => turn.method === "voice",
    moved: (turn, { low, high, ...change }) => ({
      ...turn,
      ...change,
      // What is meant is a part of the field now, whatever sounds there.
      method: "wedge",
      replaces: "",
      ...(low !== undefined && { low_hz: lowHz(low) }),
      ...(high !== undefined && { high_hz: highHz(high) }),
    }),
  },
  guide: "voice",
  why: "centre",
};
