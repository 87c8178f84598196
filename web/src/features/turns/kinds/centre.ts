import { DEFAULT_KIND, forEach, type TurnKind } from "../kind";
import { CentreSettings } from "../settings/Centre";
import { bandOf, highHz, lowHz } from "./band";

/** What is not made is what is left. */
const LABELS = {
  sides: ["Original", "Sides", "Centre"],
  both: ["Original", "Sides", "Centre"],
  centre: ["Original", "Centre", "Sides"],
} as const;

export const centre: TurnKind<"centre"> = {
  ...DEFAULT_KIND,
  title: "Centre",
  words: ["center", "vocal", "voice", "karaoke", "lead", "instrumental", "remove", "extract"],
  offers: (chosen) => [
    // Both are heard while the wedge is set.
    forEach(chosen, "centre", `remove or isolate the voice or the centre of ${chosen.names}`, () => ({
      kind: "centre",
      keep: "both",
    })),
  ],
  Settings: CentreSettings,
  figure: "none",
  lanes: (step, turn) => ({ labels: LABELS[turn.keep], out: step.outputs.slice(0, 1), later: 0 }),
  overlay: {
    wedge: (turn, rate) => {
      if (turn.method === "difference") return null;
      const { position, opening, strength } = turn;
      const { low, high } = bandOf(turn);
      return { position, opening, strength, low, high: Math.min(high, rate / 2) };
    },
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
