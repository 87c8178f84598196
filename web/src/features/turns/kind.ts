/** What a kind of turn is to the page: everything that is known of it outside the core. */
import type { ComponentType } from "react";
import { ACCEPTS } from "../../api/accepts.gen";
import type { Clip, Group, NewStep, NewTurn, Step } from "../../api/client";
import type { Kind, Of, WedgeSettings } from "../../api/turns";
import { count, kilohertz, ratesOf } from "../../shared/format";
import type { SelectedRange } from "../../shared/places";
import type { Hush } from "./hushes";
import type { PlaneHandle } from "./planeHandles";
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
  /** What can be dragged in the small picture. */
  handles: (turn: Of<K>) => PlaneHandle<Of<K>>[];
  /**
   * What is heard as In, Out and In − Out is called so, which of its results is Out, and by how many frames that begins
   * later than In.
   */
  lanes: (step: Step, turn: Of<K>) => { labels: Labels; out: Clip[]; later: number };
  /** The wedge that is drawn and moved over the map. */
  overlay: {
    wedge: (turn: Of<K>, rate: number) => WedgeSettings | null;
    /** What is taken has no edges that could be drawn: it is shown where it was taken. */
    showsTaken: (turn: Of<K>) => boolean;
    moved: (turn: Of<K>, change: Partial<WedgeSettings>) => Of<K>;
  } | null;
  /** Stretches of one channel that are drawn over the waveform. */
  hushes: {
    of: (turn: Of<K>) => readonly Hush[];
    changed: (turn: Of<K>, hushes: Hush[]) => Of<K>;
  } | null;
  /** What is added in its place where the core refuses it for the reason of this code. */
  fallback: ((turn: NewTurn, code: string) => NewTurn | null) | null;
  /** The page of the guide that has it among its steps. */
  guide: string | null;
  /** The page that explains it. */
  why: "polarity" | "mid-side" | "summing" | "centre" | null;
};

export type Axes = "left-right" | "mid-side";
type Labels = readonly [input: string, output: string, difference: string];

const LABELS: Labels = ["In", "Out", "In − Out"];
/** What is the same for most kinds. */
export const DEFAULT_KIND = {
  axes: (): { before: Axes; after: Axes } => ({ before: "left-right", after: "left-right" }),
  figure: "from one point",
  handles: () => [],
  guide: null,
  lanes: (step: Step) => ({ labels: LABELS, out: step.outputs, later: 0 }),
  overlay: null,
  hushes: null,
  fallback: null,
} as const;

export type Offer = {
  kind: Kind;
  /** Its name where that is not its kind. */
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
  /** The range that is selected over what is shown, at the rate of that. */
  range: SelectedRange | null;
  /** The groups that the chosen make up, where they are more than one and nothing else is chosen. */
  groups: Group[];
};

export function chosenOf(clips: Clip[], groups: Group[], range: SelectedRange | null): Chosen {
  const refs = new Set(clips.map((clip) => clip.ref));
  const whole = groups.filter((group) => !group.refused && group.members.every((ref) => refs.has(ref)));
  const inGroups = whole.reduce((sum, group) => sum + group.members.length, 0);
  return {
    clips,
    range,
    names: clips.length > 3 ? count(clips.length, "file") : clips.map((clip) => clip.name).join(" and "),
    groups: whole.length > 1 && inGroups === clips.length ? whole : [],
  };
}

const newStep = (turn: NewTurn, inputs: Clip[]): NewStep => ({
  turn,
  inputs: inputs.map((clip) => clip.ref),
  names: [],
});

type Accepts = {
  least: number;
  most: number | null;
  channels: readonly [number, number];
  alike: boolean;
  words: string;
};
const acceptedBy = (kind: Kind): readonly Accepts[] => ACCEPTS[kind];

/** Whether these clips can go into such a turn together. */
export const accepts = (kind: Kind, clips: readonly Clip[]) =>
  acceptedBy(kind).some(
    ({ least, most, channels, alike }) =>
      clips.length >= least &&
      clips.length <= (most ?? clips.length) &&
      clips.every((clip) => clip.channels >= channels[0] && clip.channels <= channels[1]) &&
      !(alike && clips.some((clip) => clip.channels !== clips[0]?.channels)),
  );

/** Why a turn takes nothing of what is chosen. */
const refusal = (kind: Kind, clips: readonly Clip[]) => {
  const what = acceptedBy(kind)
    .map(({ words }) => words)
    .join(", or ");
  return clips.length ? `needs ${what}` : `select ${what} first`;
};

/** One line for each of the clips that the turn takes. */
export function forEach(
  { clips }: Chosen,
  kind: Kind,
  label: string,
  turnFor: (clip: Clip) => NewTurn = () => ({ kind }),
  /** Names and a range for the line of a clip. */
  detailsFor: (clip: Clip) => Partial<NewStep> = () => ({}),
): Offer {
  const taken = clips.filter((clip) => accepts(kind, [clip]));
  return {
    kind,
    label: taken.length > 1 ? `${label}, ${taken.length} files` : label,
    steps: taken.map((clip) => ({ ...newStep(turnFor(clip), [clip]), ...detailsFor(clip) })),
    refused: taken.length ? null : refusal(kind, clips),
  };
}

/**
 * What people mean by a turn, under the name that they give it: the turn with its settings. Where nothing that is chosen
 * can go into it, the turn itself says so.
 */
export const offerAs = (name: string, words: readonly string[], offer: Offer): Offer[] =>
  offer.refused ? [] : [{ ...offer, name, words }];

/** One line for all of the clips together. */
export const together = ({ clips }: Chosen, turn: NewTurn, label: string): Offer => ({
  kind: turn.kind,
  label,
  steps: [newStep(turn, clips)],
  refused: accepts(turn.kind, clips) ? null : refusal(turn.kind, clips),
});

/**
 * What clips of several sample rates can't go into together as they are, and at each of their rates, to which the others
 * are resampled first.
 */
export function offerAtEachRate({ clips }: Chosen, offer: Offer): Offer[] {
  const rates = ratesOf(clips);
  if (offer.refused || rates.length < 2) return [offer];
  return [
    { ...offer, refused: `needs one sample rate, not ${rates.map(kilohertz).join(" and ")}` },
    ...rates.map((rate) => ({
      ...offer,
      name: `${offer.name ?? offer.kind} at ${kilohertz(rate)}`,
      label: `${offer.label}, resampled to ${kilohertz(rate)}`,
      steps: offer.steps.map((step) => ({ ...step, rate })),
    })),
  ];
}

/** One line for each of the groups that is dealt with by such a turn. */
export function forGroups({ groups }: Chosen, kind: Kind, noun: string): Offer | null {
  const its = groups.filter((group) => group.turn.kind === kind);
  if (!its.length) return null;
  return {
    kind,
    label: `${kind} ${count(its.length, noun)}, paired by name`,
    steps: its.map((group) => ({ turn: group.turn, inputs: group.members, names: [] })),
    refused: null,
  };
}
