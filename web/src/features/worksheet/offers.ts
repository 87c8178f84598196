/** What each turn would do with the chosen clips, and why it would not. */
import type { Clip, Group, NewStep, Turn } from "../../api/client";
import { DEFAULTS } from "../../api/turns";
import { count } from "../../shared/format";

export type Offer = {
  kind: Turn["kind"];
  /** What it is called where that is not its kind. */
  name?: string;
  label: string;
  steps: NewStep[];
  refused: string | null;
};

const step = (turn: Turn, inputs: Clip[]): NewStep => ({
  turn,
  inputs: inputs.map((clip) => clip.ref),
  names: [],
});

/** Other words that people type for a turn. */
const WORDS: Record<Turn["kind"] | "null", readonly string[]> = {
  merge: ["join", "combine", "interleave", "stereo", "quad", "surround", "layout"],
  split: ["channels", "separate", "dual"],
  swap: ["exchange", "reverse", "mirror"],
  polarity: ["flip", "invert", "phase", "inverted"],
  fold: ["mono", "sum", "downmix", "left", "right", "blend"],
  encode: ["m/s", "ms", "mid", "side"],
  decode: ["m/s", "ms", "mid", "side"],
  width: ["wide", "narrow", "stereo", "image"],
  matrix: ["mix", "pan", "balance"],
  sum: ["add", "mix", "blend"],
  null: ["difference", "cancel", "compare", "test"],
  level: ["gain", "volume", "balance", "db", "loud"],
  align: ["delay", "late", "time", "shift", "sync"],
  centre: ["center", "vocal", "voice", "karaoke", "lead", "instrumental", "remove", "extract"],
};

/** How well an offer answers what was typed: 0 by its name, 1 by another word for it, null not at all. */
export function answers(offer: Offer, typed: string): 0 | 1 | null {
  const text = typed.trim().toLowerCase();
  const name = offer.name ?? offer.kind;
  if (name.startsWith(text)) return 0;
  return WORDS[name as keyof typeof WORDS].some((word) => word.startsWith(text)) ? 1 : null;
}

const LAYOUTS: Record<number, string> = { 2: "one stereo file", 4: "quad", 5: "5.0", 6: "5.1", 8: "7.1" };

/** Offers in the order of the work; those that take nothing of what is chosen say what they would take. */
export function offersFor(chosen: Clip[], groups: Group[] = []): Offer[] {
  const names =
    chosen.length > 3 ? count(chosen.length, "file") : chosen.map((clip) => clip.name).join(" and ");
  const mono = chosen.filter((clip) => clip.channels === 1);
  const stereo = chosen.filter((clip) => clip.channels === 2);
  const wide = chosen.filter((clip) => clip.channels > 1);

  /** One line for each of the clips that the turn takes. */
  const each = (kind: Turn["kind"], takes: Clip[], what: string, label: string): Offer => ({
    kind,
    label: takes.length > 1 ? `${label}, ${takes.length} files` : label,
    steps: takes.map((clip) => step(DEFAULTS[kind], [clip])),
    refused: takes.length ? null : chosen.length ? `takes ${what}` : `choose ${what} first`,
  });
  const refs = new Set(chosen.map((clip) => clip.ref));
  const whole = groups.filter((group) => !group.refused && group.members.every((ref) => refs.has(ref)));
  const inGroups = whole.reduce((sum, group) => sum + group.members.length, 0);
  const byName = whole.length > 1 && inGroups === chosen.length ? whole : [];
  const verb = (kind: "merge" | "decode") => byName.filter((group) => group.turn.kind === kind);
  const ofGroups = (kind: "merge" | "decode", noun: string): Offer | null =>
    verb(kind).length
      ? {
          kind,
          label: `${kind} ${count(verb(kind).length, noun)}, as their names say`,
          steps: verb(kind).map((group) => ({ turn: group.turn, inputs: group.members, names: [] })),
          refused: null,
        }
      : null;
  const merge: Offer = ofGroups("merge", "group") ?? {
    kind: "merge",
    label: `merge ${names} into ${LAYOUTS[mono.length] ?? count(mono.length, "channel")}`,
    steps: [step(DEFAULTS.merge, mono)],
    refused: mono.length >= 2 && mono.length === chosen.length ? null : "choose two mono files or more first",
  };
  const decode: Offer =
    ofGroups("decode", "pair") ??
    (mono.length === 2 && chosen.length === 2
      ? {
          kind: "decode",
          label: `${names} are mid and side`,
          steps: [step(DEFAULTS.decode, mono)],
          refused: null,
        }
      : each(
          "decode",
          stereo,
          "mid and side: one stereo file or two mono files",
          `${names} holds mid and side`,
        ));
  const sameShape = chosen.length > 1 && chosen.every((clip) => clip.channels === chosen[0]?.channels);
  return [
    merge,
    each("split", wide, "a file of two channels or more", `${names} into mono files`),
    each("swap", stereo, "a stereo file", `left and right of ${names} change places`),
    each("polarity", chosen, "a file", `turn a channel of ${names} upside down`),
    each("fold", stereo, "a stereo file", `${names} into mono: a side, the sum, a blend`),
    each("encode", stereo, "a stereo file", `${names} into mid and side`),
    decode,
    each("width", stereo, "a stereo file", `make ${names} wider or narrower`),
    each("matrix", stereo, "a stereo file", `any mix of the sides of ${names}`),
    {
      kind: "sum",
      label: `add ${names}`,
      steps: [step(DEFAULTS.sum, chosen)],
      refused: sameShape ? null : "choose two files or more of the same channels first",
    },
    {
      kind: "sum",
      name: "null",
      label: `${names}: the second upside down, to hear what is left`,
      steps: [step({ ...DEFAULTS.sum, flip: [2] }, chosen)],
      refused: sameShape && chosen.length === 2 ? null : "choose two files of the same channels first",
    },
    each("level", chosen, "a file", `change the level of ${names}`),
    each("centre", stereo, "a stereo file", `take the centre of ${names} out, or keep it`),
    each("align", stereo, "a stereo file", `move the sides of ${names} against each other`),
  ];
}
