import type { Clip } from "../../../api/client";
import { DEFAULT_KIND, forEach, type TurnKind } from "../kind";
import { ResampleSettings } from "../settings/Resample";

const FILM = 48_000;
const RECORD = 44_100;

export const resample: TurnKind<"resample"> = {
  ...DEFAULT_KIND,
  title: "Resample",
  words: ["sample rate", "convert", "src", "44.1 khz", "48 khz", "96 khz"],
  offers: (chosen) => [
    forEach(chosen, "resample", `resample ${chosen.names}`, (clip) => ({
      kind: "resample",
      rate: otherRate(clip),
    })),
  ],
  Settings: ResampleSettings,
  figure: "none",
  guide: "rates",
  why: null,
};

/** The rate that a clip is asked for most, unless it is at it already. */
const otherRate = ({ rate }: Clip) => (rate === FILM ? RECORD : FILM);
