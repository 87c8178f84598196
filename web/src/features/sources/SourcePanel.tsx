/** Everything known about one source: what was measured, what it carries, what belongs to it, what can be done. */

import { Box, Flex, Text } from "@chakra-ui/react";
import { ArrowLeftRight, Unlink } from "lucide-react";
import { useState } from "react";
import type { FileFinding, Group, Job, Levels, Measures, NewStep, Source } from "../../api/client";
import { useSource } from "../../api/queries";
import { Failed } from "../../shared/Failed";
import { SelectField } from "../../shared/fields";
import {
  bytes,
  clock,
  correlation,
  decibels,
  duration,
  gainText,
  kilohertz,
  layout,
  signed,
  stored,
} from "../../shared/format";
import { GuideLink } from "../../shared/GuideLink";
import { Name } from "../../shared/Name";
import { AsidePane, Facts, OfferButton, PaneTitle, PrimaryButton, QuietButton } from "../../shared/parts";
import { Sheet } from "../../shared/Sheet";
import { groupStep, isRemark, remedySteps } from "./rows";

type Props = {
  job: Job;
  source: Source;
  onSteps: (steps: NewStep[]) => void;
  onArchive: (refs: string[], archived: boolean) => void;
  onPair: (members: string[], together: boolean) => void;
  onDelete: (source: string) => void;
  /** Another file in its place, by its id. */
  onReplace: (source: string, by: string) => void;
};

export function SourcePanel({ job, source, onSteps, onArchive, onPair, onDelete, onReplace }: Props) {
  const details = useSource(job.id, source.id);
  const [deleting, setDeleting] = useState(false);
  const group = job.groups.find((one) => one.members.includes(source.ref));
  const unclear = job.unclear.find((one) => one.members.includes(source.ref));
  return (
    <AsidePane label="About this file">
      <PaneTitle
        right={
          <QuietButton onClick={() => onArchive([source.ref], !source.archived)}>
            {source.archived ? "Restore" : "Archive"}
          </QuietButton>
        }
      >
        About this file
      </PaneTitle>
      <Text fontWeight={600} overflowWrap="anywhere">
        {source.file}
      </Text>
      {source.archived && (
        <QuietButton alignSelf="start" px={0} onClick={() => setDeleting(true)}>
          Delete permanently
        </QuietButton>
      )}
      {!source.archived && usedBy(job, source.ref) && (
        <Replace job={job} source={source} onReplace={onReplace} />
      )}
      {source.problem && (
        <Box borderLeftWidth={3} borderColor="trouble" pl={3} role="alert">
          <Text>{source.problem}</Text>
        </Box>
      )}
      {source.findings.map((finding) => (
        <Found key={finding.code} finding={finding} source={source.ref} onSteps={onSteps} />
      ))}
      {group && <InGroup job={job} group={group} onSteps={onSteps} onPair={onPair} />}
      {unclear && (
        <Box borderLeftWidth={3} borderColor="trouble" pl={3}>
          <Text>
            {unclear.name}: {unclear.reason}. Choose the files that belong together and add a turn.
          </Text>
        </Box>
      )}
      <Facts
        facts={[
          ["format", `${layout(source.channels)} · ${kilohertz(source.rate)} · ${stored(source)}`],
          ["file type", source.container],
          ["length", duration(source.frames, source.rate)],
          ["samples", source.frames.toLocaleString("en")],
          ["start time", source.start_time === null ? "–" : clock(source.start_time / source.rate)],
          ["size", bytes(source.bytes)],
          ...(source.speakers.length ? [["speakers", source.speakers.join(" ")] as const] : []),
          ...(source.folder ? [["folder", source.folder] as const] : []),
        ]}
      />
      {details.data ? (
        <>
          <LevelTable source={source} measures={details.data.measures} />
          {details.data.chunks.length > 0 && (
            <Facts facts={details.data.chunks.map((chunk) => [chunk.name.trim(), bytes(chunk.bytes)])} />
          )}
        </>
      ) : (
        <Text as="div" color="fg.quiet" fontSize="xs">
          {details.error ? (
            <Failed what={details.error.message} onRetry={() => void details.refetch()} />
          ) : (
            "Measuring…"
          )}
        </Text>
      )}
      <Sheet
        alert
        title={`Delete ${source.name}?`}
        open={deleting}
        onClose={() => setDeleting(false)}
        footer={
          <>
            <QuietButton onClick={() => setDeleting(false)}>Cancel</QuietButton>
            <PrimaryButton
              onClick={() => {
                onDelete(source.id);
                setDeleting(false);
              }}
            >
              Delete
            </PrimaryButton>
          </>
        }
      >
        This deletes its copy in the data folder. {usedBy(job, source.ref)}Your original file is not touched.
        This can’t be undone.
      </Sheet>
    </AsidePane>
  );
}

/** A newer version of a file takes its place in every line that uses it. */
function Replace({ job, source, onReplace }: Pick<Props, "job" | "source" | "onReplace">) {
  const others = job.sources.filter((one) => one.id !== source.id && !one.archived);
  const alike = others.filter((one) => one.channels === source.channels && one.rate === source.rate);
  if (!alike.length) return null;
  return (
    <SelectField
      label="Replace in all lines by"
      value=""
      options={[["", "choose a newer version…"], ...alike.map((one) => [one.id, one.name] as const)]}
      onChange={(by) => by && onReplace(source.id, by)}
    />
  );
}

/** What becomes of the lines that take a file. */
function usedBy(job: Job, ref: string): string {
  const lines = job.steps.flatMap((step, n) => (step.inputs.includes(ref) ? [n + 1] : []));
  if (!lines.length) return "";
  return lines.length === 1
    ? `Line ${lines[0]} uses it and will wait for another file. `
    : `Lines ${lines.join(", ")} use it and will wait for another file. `;
}

/** The members the other way round; those of mid and side stay as their names say, and are turned by a flag. */
const exchanged = (group: Group) =>
  group.kind === "mid-side" && group.by_hand ? group.members : [...group.members].reverse();

/** The page of the guide that deals with a finding. */
const GUIDE: Record<string, string> = {
  "dual-mono": "mono",
  "nearly-mono": "mono",
  "silent-channel": "mono",
  "opposite-polarity": "polarity",
  "polarity-changes": "polarity",
  "mid-side-like": "mid-side",
  delay: "two-microphones",
  "level-difference": "two-voices",
};

function Found({
  finding,
  source,
  onSteps,
}: {
  finding: FileFinding;
  source: string;
  onSteps: Props["onSteps"];
}) {
  return (
    <Box
      borderLeftWidth={3}
      borderColor={isRemark(finding) ? "line" : "trouble"}
      pl={3}
      data-testid={`finding-${finding.code}`}
    >
      <Text>{finding.message}</Text>
      <Flex gap={2} wrap="wrap">
        {remedySteps(finding, [source]).map(({ label, step }) => (
          <OfferButton key={label} mt={1.5} onClick={() => onSteps([step])}>
            {label}
          </OfferButton>
        ))}
        {GUIDE[finding.code] && (
          <Text fontSize="xs" alignSelf="end">
            <GuideLink page={GUIDE[finding.code] ?? ""}>How do I …?</GuideLink>
          </Text>
        )}
      </Flex>
    </Box>
  );
}

const PAIRS = { sides: "Pair", "mid-side": "M/S pair", layout: "Multichannel set" } as const;

function InGroup(props: { job: Job; group: Group; onSteps: Props["onSteps"]; onPair: Props["onPair"] }) {
  const { job, group, onSteps, onPair } = props;
  const name = (ref: string) => job.sources.find((source) => source.ref === ref)?.name ?? "";
  const places = group.kind === "layout" ? group.speakers : group.kind === "sides" ? ["L", "R"] : ["M", "S"];
  return (
    <Box bg="raised" borderRadius="md" p={3} data-testid="group">
      <Text fontWeight={600} mb={1}>
        {PAIRS[group.kind]}: {group.name}
      </Text>
      {(group.by_hand && group.kind === "mid-side" ? [...group.members].reverse() : group.members).map(
        (ref, n) => (
          <Flex key={ref} gap={2}>
            <Text
              w={8}
              fontWeight={700}
              color={places[n] === "L" ? "left" : places[n] === "R" ? "right" : "fg.quiet"}
            >
              {places[n]}
            </Text>
            <Name>{name(ref)}</Name>
          </Flex>
        ),
      )}
      {group.findings.map((finding) => (
        <Text key={finding.code} mt={1.5} color="trouble" data-testid={`finding-${finding.code}`}>
          {finding.message}
        </Text>
      ))}
      <Flex mt={2} gap={1} wrap="wrap">
        {!group.done && !group.refused && (
          <OfferButton onClick={() => onSteps([groupStep(group)])}>{group.label}</OfferButton>
        )}
        {group.members.length === 2 && (
          <QuietButton onClick={() => onPair(exchanged(group), true)}>
            <ArrowLeftRight size={14} /> swap {group.kind === "mid-side" ? "M/S" : "L/R"}
          </QuietButton>
        )}
        <QuietButton onClick={() => onPair(group.members, false)}>
          <Unlink size={14} /> unpair
        </QuietButton>
      </Flex>
    </Box>
  );
}

const ROWS: readonly (readonly [string, (levels: Levels) => string])[] = [
  ["peak (dBFS)", (l) => figure(l.peak_dbfs)],
  ["true peak (dBTP)", (l) => figure(l.true_peak_dbtp)],
  ["RMS (dBFS)", (l) => figure(l.rms_dbfs)],
  ["loudness (LUFS)", (l) => figure(l.loudness_lufs)],
  ["crest factor (dB)", (l) => figure(l.crest_db)],
  ["DC offset (%)", (l) => signed(100 * l.dc, 3)],
];
const figure = (value: number | null) => (value === null ? "–" : signed(value));

/** Levels of all of it and of each channel; of two channels, how they go together. */
function LevelTable({ source, measures }: { source: Source; measures: Measures }) {
  const columns =
    source.channels === 1 ? [measures.whole] : [measures.whole, ...measures.channels.slice(0, 2)];
  const heads =
    source.channels === 2 ? ["all", "L", "R"] : ["all", ...(source.channels > 2 ? ["1", "2"] : [])];
  const { sides } = measures;
  return (
    <>
      <Box as="table" fontSize="xs" w="full" aria-label="Levels">
        <thead>
          <tr>
            <td />
            {heads.map((head) => (
              <Box
                as="th"
                key={head}
                textAlign="right"
                color={head === "L" ? "left" : head === "R" ? "right" : "fg.quiet"}
              >
                {head}
              </Box>
            ))}
          </tr>
        </thead>
        <tbody>
          {ROWS.map(([name, read]) => (
            <tr key={name}>
              <Box as="td" color="fg.quiet">
                {name}
              </Box>
              {columns.map((levels, n) => (
                <Box as="td" key={heads[n]} textAlign="right" fontFamily="mono">
                  {read(levels)}
                </Box>
              ))}
            </tr>
          ))}
        </tbody>
      </Box>
      {sides && (
        <Facts
          facts={[
            ["correlation", correlation(sides.correlation)],
            ["L/R balance", gainText(sides.balance_db)],
            ["mono fold-down loss", decibels(sides.mono_fold_loss_db)],
            ["side-to-mid ratio", gainText(sides.side_to_mid_db)],
          ]}
        />
      )}
    </>
  );
}
