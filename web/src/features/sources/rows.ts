/** Which rows the list shows, in which order, what a click selects, and what can be done for many at once. */

import type { Clip, FileFinding, Group, Job, NewStep, Source } from "../../api/client";
import { stepOf } from "../../api/turns";
import { count } from "../../shared/format";

/**
 * `place` says where in a bracket a row stands that belongs to a group, `line` which line of the worksheet was the first
 * to use its file.
 */
export type Row = {
  source: Source;
  group: Group | null;
  place: "first" | "middle" | "last" | null;
  line: number | null;
};

/** Findings that are worth knowing and no fault. */
export const isRemark = ({ code }: Pick<FileFinding, "code">) => REMARKS.has(code);
const REMARKS = new Set(["bits-used", "sound-tracks", "other-depth"]);
export const SORTS = {
  came: "Added",
  name: "Name",
  findings: "Issues",
  length: "Length",
  loudness: "Loudness",
} as const;
export type Sort = keyof typeof SORTS;

const compare: Record<Sort, (a: Source, b: Source) => number> = {
  came: () => 0,
  name: (a, b) => a.name.localeCompare(b.name, undefined, { numeric: true }),
  findings: (a, b) => b.findings.length - a.findings.length,
  length: (a, b) => b.frames / b.rate - a.frames / a.rate,
  loudness: (a, b) => (b.loudness ?? -999) - (a.loudness ?? -999),
};

export type Shown = { filter: string; facet: Facet | null; sort: Sort };

/** Which files the list shows: those with this text, in this facet, in this order. */
export type FileFilter = { text: string; facet: string | null; sort: Sort };

/** Rows of what is wanted; the members of a group stand together, in channel order, where its first one stands. */
export function arrange(
  job: Pick<Job, "sources" | "groups" | "steps">,
  { filter, facet, sort }: Shown,
): Row[] {
  const lines = new Map<string, number>();
  for (const [n, step] of [...job.steps.entries()].reverse())
    for (const ref of step.inputs) lines.set(ref, n + 1);
  const wanted = filter.trim().toLocaleLowerCase();
  const inFacet = facet && new Set(facet.refs);
  const shown = job.sources
    .filter((source) => (inFacet ? inFacet.has(source.ref) : !source.archived))
    .filter((source) => searched(source).toLocaleLowerCase().includes(wanted))
    .sort(compare[sort]);
  const byRef = new Map(shown.map((source) => [source.ref, source]));
  const groupOf = new Map(job.groups.flatMap((group) => group.members.map((ref) => [ref, group] as const)));
  const done = new Set<string>();
  return shown.flatMap((source): Row[] => {
    if (done.has(source.ref)) return [];
    const group = groupOf.get(source.ref) ?? null;
    const members = group?.members.flatMap((ref) => byRef.get(ref) ?? []) ?? [];
    if (!group || members.length < group.members.length)
      return [{ source, group, place: null, line: lines.get(source.ref) ?? null }];
    for (const member of members) done.add(member.ref);
    return members.map((member, n) => ({
      source: member,
      group,
      place: n === 0 ? "first" : n === members.length - 1 ? "last" : "middle",
      line: lines.get(member.ref) ?? null,
    }));
  });
}

/** What a file is found by: its name and folder, its note, and what it says about its recording. */
function searched({ folder, file, note, labels, frame_rate, recorded }: Source): string {
  const { project, scene, take, tape, note: said } = recorded;
  const named = [
    scene && `scene ${scene}`,
    take && `take ${take}`,
    tape && `tape ${tape}`,
    frame_rate && `${frame_rate} fps`,
  ];
  return [`${folder}/${file}`, note, project, ...named, said, ...labels].join("\n");
}

type Held = { ctrlKey: boolean; metaKey: boolean; shiftKey: boolean };

/** One row; with Ctrl or Cmd in or out of the selection; with Shift all from the last one chosen. */
export function select(
  rows: Row[],
  selected: string[],
  anchor: string | null,
  at: number,
  held: Held,
): string[] {
  const ref = rows[at]?.source.ref;
  if (ref === undefined) return selected;
  if (held.shiftKey) {
    const start = Math.max(
      0,
      rows.findIndex((row) => row.source.ref === anchor),
    );
    const [from, to] = [Math.min(start, at), Math.max(start, at)];
    return rows.slice(from, to + 1).map((row) => row.source.ref);
  }
  if (held.ctrlKey || held.metaKey)
    return selected.includes(ref) ? selected.filter((one) => one !== ref) : [...selected, ref];
  return [ref];
}

/** Files that have something in common, and what can be done for all of them at once. */
export type Facet = {
  id: string;
  label: string;
  grave: boolean;
  refs: string[];
  action: { label: string; steps: NewStep[] } | null;
  /** What is archived of it, where that is not all. */
  spare?: string[];
};

/** What a finding offers, as lines on these inputs. */
export const remedySteps = ({ remedy, others }: FileFinding, inputs: string[]) =>
  [remedy, ...others].flatMap((one) => (one ? [{ label: one.label, step: stepOf(one, inputs) }] : []));

/** What a finding offers first. */
export const remedyStep = (finding: FileFinding, inputs: string[]): NewStep | null =>
  remedySteps(finding, inputs)[0]?.step ?? null;

export const groupStep = (group: Group): NewStep => ({ turn: group.turn, inputs: group.members, names: [] });

/** The first thing that a row offers: its group's turn, or that of its gravest finding. */
export function offered({ source, group }: Row): NewStep | null {
  if (source.archived) return null;
  if (group && !group.done && !group.refused && !group.doubt) return groupStep(group);
  const steps = source.findings.map((finding) => remedyStep(finding, [source.ref]));
  return steps.find((step) => step !== null) ?? null;
}

const GROUPS: Record<Group["kind"], [string, string]> = {
  "stereo-pair": ["pair", "pairs"],
  "mid-side": ["M/S pair", "M/S pairs"],
  layout: ["multichannel set", "multichannel sets"],
};

const TITLES: Record<Group["kind"], string> = {
  "stereo-pair": "Pairs",
  "mid-side": "M/S pairs",
  layout: "Multichannel sets",
};
const counted = (label: string, n: number) => `${label} ${n}`;

/** Facets that have anything in them: what wants a look, groups, kinds of files, findings, what was put aside. */
export function facets(job: Pick<Job, "sources" | "groups" | "unclear" | "steps">): Facet[] {
  const live = job.sources.filter((source) => !source.archived);
  const used = new Set(job.steps.flatMap((step) => step.inputs));
  const list: Facet[] = [];
  const toCheck = live.filter(
    (source) => !used.has(source.ref) && source.findings.some((finding) => !isRemark(finding)),
  );
  if (toCheck.length)
    list.push({
      id: "to-check",
      label: counted("To check", toCheck.length),
      grave: true,
      refs: toCheck.map((source) => source.ref),
      action: null,
    });
  for (const kind of ["stereo-pair", "mid-side", "layout"] as const) {
    const groups = job.groups.filter((group) => group.kind === kind);
    const open = groups.filter((group) => !group.done && !group.refused && !group.doubt);
    const verb = kind === "mid-side" ? "decode" : "merge";
    if (groups.length)
      list.push({
        id: kind,
        label: counted(TITLES[kind], groups.length),
        grave: false,
        refs: groups.flatMap((group) => group.members),
        action: open.length
          ? { label: `${verb} ${count(open.length, ...GROUPS[kind])}`, steps: open.map(groupStep) }
          : null,
      });
  }
  for (const [id, label, holds] of KINDS) {
    const all = live.filter(holds);
    const open = id === "mono" ? [] : all.filter((source) => !used.has(source.ref));
    if (all.length > 1 || (all.length && all.length < live.length))
      list.push({
        id,
        label: counted(label, all.length),
        grave: false,
        refs: all.map((source) => source.ref),
        action: open.length
          ? { label: `split ${count(open.length, "file")}`, steps: open.map(splitStep) }
          : null,
      });
  }
  const byCode = new Map<string, { label: string; all: { source: Source; finding: FileFinding }[] }>();
  for (const source of live)
    for (const finding of source.findings) {
      const entry = byCode.get(finding.code) ?? { label: LABELS[finding.code] ?? finding.label, all: [] };
      entry.all.push({ source, finding });
      byCode.set(finding.code, entry);
    }
  for (const [code, { label, all }] of byCode) {
    const steps = all.flatMap(({ source, finding }) =>
      used.has(source.ref) ? [] : (remedyStep(finding, [source.ref]) ?? []),
    );
    const labels = new Set(all.flatMap(({ finding }) => finding.remedy?.label ?? []));
    const [words] = labels.size === 1 ? labels : ["apply the suggestion"];
    list.push({
      id: code,
      label: counted(label, all.length),
      grave: !isRemark({ code }),
      refs: all.map(({ source }) => source.ref),
      action: steps.length ? { label: `${words}: ${count(steps.length, "file")}`, steps } : null,
    });
  }
  const places = new Map(live.map((source, n) => [source.ref, n]));
  const twins = live.filter((source) => source.same_as.some((ref) => places.has(ref)));
  // The first of each stays.
  const spare = twins.filter(({ ref, same_as }) =>
    same_as.some((other) => (places.get(other) ?? Infinity) < (places.get(ref) ?? 0)),
  );
  if (spare.length)
    list.push({
      id: "duplicates",
      label: counted("Duplicates", spare.length),
      grave: true,
      refs: twins.map((source) => source.ref),
      action: null,
      spare: spare.map((source) => source.ref),
    });
  if (job.unclear.length)
    list.push({
      id: "unclear",
      label: counted("Ambiguous names", job.unclear.length),
      grave: true,
      refs: job.unclear.flatMap((one) => one.members),
      action: null,
    });
  const archived = job.sources.filter((source) => source.archived);
  if (archived.length)
    list.push({
      id: "archived",
      label: counted("Archived", archived.length),
      grave: false,
      refs: archived.map((source) => source.ref),
      action: null,
    });
  return list;
}

const KINDS: [string, string, (source: Source) => boolean][] = [
  ["mono", "Mono", (source) => source.channels === 1],
  ["stereo", "Stereo", (source) => source.channels === 2],
  ["many", "Multichannel", (source) => source.channels > 2],
];

/** Names of the filters, where a finding's own label holds a figure or a channel. */
const LABELS: Record<string, string> = {
  "silent-channel": "Silent channel",
  "nearly-silent-channel": "Nearly silent channel",
  hum: "Only hum",
  "dual-mono": "Dual mono",
  "nearly-mono": "Nearly mono",
  "opposite-polarity": "Polarity inverted",
  "polarity-changes": "Polarity changes",
  "level-difference": "L/R imbalance",
  "unrelated-channels": "Two recordings",
  delay: "Channel delay",
  "late-and-inverted": "Channel delay, inverted",
  "mid-side-like": "M/S encoded",
  "over-full-scale": "Over 0 dBFS",
  empty: "Silent",
  damaged: "Damaged",
  "bits-used": "Unused bits",
  clipped: "Clipped",
  "dc-offset": "DC offset",
  "sound-tracks": "Several sound tracks",
  "tracks-left-out": "Track not read",
  "lossy-ancestor": "Lossy source",
  "lossy-spectrum": "Lossy spectrum",
  "other-rate": "Different sample rate",
  "other-depth": "Different bit depth",
  "other-length": "Different length",
  "other-start": "Different start time",
  "half-missing": "Other channel missing",
  twin: "L and R identical",
  "number-missing": "Gap in numbering",
  "gain-changed": "Gain changed",
};

const splitStep = (clip: Clip): NewStep => ({ turn: { kind: "split" }, inputs: [clip.ref], names: [] });
