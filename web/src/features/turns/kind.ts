/** What a kind of turn is to the page: everything that is known of it outside the core. */
import type { ComponentType } from "react";
import type { Clip, Group, NewStep, NewTurn, Step } from "../../api/client";
import type { Kind, Of, WedgeSettings } from "../../api/turns";
import { count } from "../../shared/format";
import type { SettingsProps } from "./settings/common";

export type TurnKind<K extends Kind> = {
  title: string;
  /** Other words that people type for it. */
  words: readonly string[];
  /** What it would do with what is chosen, or why it would not. */
  offers: (chosen: Chosen) => Offer[];
  Settings: ComponentType<SettingsProps<K>> | null;
  /** What the channels of a stereo file are before and after it. */
  axes: (step: Step) => { before: Axes; after: Axes };
  /** How the small picture shows it: arrows from one point, or side by side; none where a larger picture does. */
  figure: "from one point" | "side by side" | "none";
  /** What is heard as In, Out and In − Out is called so, and which of its results is Out. */
  lanes: (step: Step, turn: Of<K>) => { labels: Labels; out: Clip[] };
  /** The wedge that is drawn and moved over the map. */
  overlay: {
    wedge: (turn: Of<K>, rate: number) => WedgeSettings | null;
    moved: (turn: Of<K>, change: Partial<WedgeSettings>) => Of<K>;
  } | null;
  /** The page that explains it. */
  why: "polarity" | "mid-side" | "summing" | "centre" | null;
};

export type Axes = "left-right" | "mid-side";
type Labels = readonly [input: string, output: string, difference: string];

const LABELS: Labels = ["In", "Out", "In − Out"];
/** What is the same for most kinds. */
export const PLAIN = {
  axes: (): { before: Axes; after: Axes } => ({ before: "left-right", after: "left-right" }),
  figure: "from one point",
  lanes: (step: Step) => ({ labels: LABELS, out: step.outputs }),
  overlay: null,
} as const;

export type Offer = {
  kind: Kind;
  /** What it is called where that is not its kind. */
  name?: string;
  /** Words for it, where they are not those of its kind. */
  words?: readonly string[];
  label: string;
  steps: NewStep[];
  refused: string | null;
};

/** What is chosen, as offers look at it. */
export type Chosen = {
  clips: Clip[];
  /** Their names, as they are written in a label. */
  names: string;
  mono: Clip[];
  stereo: Clip[];
  wide: Clip[];
  /** More than one clip, all of the same number of channels. */
  alike: boolean;
  /** The groups that the chosen make up, where they are more than one and nothing else is chosen. */
  groups: Group[];
};

export function chosenOf(clips: Clip[], groups: Group[]): Chosen {
  const refs = new Set(clips.map((clip) => clip.ref));
  const whole = groups.filter((group) => !group.refused && group.members.every((ref) => refs.has(ref)));
  const inGroups = whole.reduce((sum, group) => sum + group.members.length, 0);
  return {
    clips,
    names: clips.length > 3 ? count(clips.length, "file") : clips.map((clip) => clip.name).join(" and "),
    mono: clips.filter((clip) => clip.channels === 1),
    stereo: clips.filter((clip) => clip.channels === 2),
    wide: clips.filter((clip) => clip.channels > 1),
    alike: clips.length > 1 && clips.every((clip) => clip.channels === clips[0]?.channels),
    groups: whole.length > 1 && inGroups === clips.length ? whole : [],
  };
}

export const newStep = (turn: NewTurn, inputs: Clip[]): NewStep => ({
  turn,
  inputs: inputs.map((clip) => clip.ref),
  names: [],
});

/** One line for each of the clips that the turn takes. */
export const forEach = (
  { clips }: Chosen,
  turn: NewTurn,
  takes: Clip[],
  what: string,
  label: string,
): Offer => ({
  kind: turn.kind,
  label: takes.length > 1 ? `${label}, ${takes.length} files` : label,
  steps: takes.map((clip) => newStep(turn, [clip])),
  refused: takes.length ? null : clips.length ? `takes ${what}` : `choose ${what} first`,
});

/** One line for each of the groups that is dealt with by such a turn. */
export function forGroups({ groups }: Chosen, kind: Kind, noun: string): Offer | null {
  const its = groups.filter((group) => group.turn.kind === kind);
  if (!its.length) return null;
  return {
    kind,
    label: `${kind} ${count(its.length, noun)}, as their names say`,
    steps: its.map((group) => ({ turn: group.turn, inputs: group.members, names: [] })),
    refused: null,
  };
}
