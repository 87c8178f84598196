/** Everything known about one source: what was measured, what it carries, what belongs to it, what can be done. */

import { Box, Flex, Text, Textarea } from "@chakra-ui/react";
import { useState } from "react";
import type { FileFinding, Job, Source } from "../../api/client";
import { useSource } from "../../api/queries";
import { ConfirmDelete } from "../../shared/ConfirmDelete";
import { Failed } from "../../shared/Failed";
import { Field, SelectField } from "../../shared/fields";
import { bytes, clock, duration, kilohertz, layout, stored } from "../../shared/format";
import { GuideLink } from "../../shared/GuideLink";
import { tellProblem } from "../../shared/notices";
import { AsidePane, Facts, PaneTitle, QuietButton, SecondaryButton } from "../../shared/parts";
import type { FileActions } from "./actions";
import { InGroup } from "./InGroup";
import { LevelTable } from "./LevelTable";
import { isRemark, remedySteps } from "./rows";

type Props = {
  job: Job;
  source: Source;
  /** The ids of all chosen files. */
  chosen: string[];
  actions: FileActions;
};

export function SourcePanel({ job, source, chosen, actions }: Props) {
  const details = useSource(job.id, source.id);
  const [deleting, setDeleting] = useState(false);
  const group = job.groups.find((one) => one.members.includes(source.ref));
  const unclear = job.unclear.find((one) => one.members.includes(source.ref));
  return (
    <AsidePane label="About this file">
      <PaneTitle
        right={
          <Flex>
            <QuietButton onClick={() => actions.startCopy({ sources: chosen, steps: [] })}>
              Copy to…
            </QuietButton>
            <QuietButton onClick={() => actions.archive([source.ref], !source.archived)}>
              {source.archived ? "Restore" : "Archive"}
            </QuietButton>
          </Flex>
        }
      >
        About this file
      </PaneTitle>
      <Text textStyle="strong" overflowWrap="anywhere">
        {source.file}
      </Text>
      {source.archived && (
        <QuietButton alignSelf="start" px={0} onClick={() => setDeleting(true)}>
          Delete permanently
        </QuietButton>
      )}
      {!source.archived && usedBy(job, source.ref) && <Replace job={job} source={source} actions={actions} />}
      {source.problem && (
        <Box layerStyle="callout" data-tone="danger" role="alert">
          <Text>{source.problem}</Text>
        </Box>
      )}
      {source.findings.map((finding) => (
        <Found key={finding.code} finding={finding} source={source.ref} actions={actions} />
      ))}
      {group && <InGroup job={job} group={group} actions={actions} />}
      {source.same_as.length > 0 && <Twins job={job} source={source} actions={actions} />}
      {unclear && (
        <Box layerStyle="callout">
          <Text>
            {unclear.name}: {unclear.reason}. Select the files that belong together and add a turn.
          </Text>
        </Box>
      )}
      <Facts
        facts={[
          ["channels", layout(source.channels)],
          ["format", `${kilohertz(source.rate)} · ${stored(source)}`],
          ["file type", source.container],
          ["length", duration(source.frames, source.rate)],
          ["samples", source.frames.toLocaleString("en")],
          ["start time", source.start_time === null ? "–" : clock(source.start_time / source.rate)],
          ...(source.time_code ? [["time code", source.time_code] as const] : []),
          ...(source.frame_rate ? [["frame rate", `${source.frame_rate} fps`] as const] : []),
          ["size", bytes(source.bytes)],
          ...(source.speakers.length ? [["speakers", source.speakers.join(" ")] as const] : []),
          ...(source.labels.length
            ? [
                [
                  "channels",
                  source.labels.map((name, n) => `${n + 1}:\u00a0${name || "–"}`).join(", "),
                ] as const,
              ]
            : []),
          ...said(source),
          ...(source.folder ? [["folder", source.folder] as const] : []),
        ]}
      />
      <Note
        key={source.id}
        note={source.note}
        onKeep={(note, was) => actions.edit({ kind: "note", source: source.id, note, was })}
      />
      {details.data ? (
        <>
          <LevelTable source={source} measures={details.data.measures} />
          {details.data.chunks.length > 0 && (
            <Facts facts={details.data.chunks.map((chunk) => [chunk.name.trim(), bytes(chunk.bytes)])} />
          )}
        </>
      ) : (
        <Text as="div" layerStyle="note">
          {details.error ? (
            <Failed what={details.error.message} onRetry={() => void details.refetch()} />
          ) : (
            "Measuring…"
          )}
        </Text>
      )}
      <ConfirmDelete
        title={`Delete ${source.name}?`}
        open={deleting}
        onClose={() => setDeleting(false)}
        onDelete={() => actions.do({ kind: "deleteSource", source: source.id })}
      >
        This deletes its copy in the data folder. {usedBy(job, source.ref)}Your original file is not touched.
        This can’t be undone.
      </ConfirmDelete>
    </AsidePane>
  );
}

/** What the file says about its recording. */
const said = ({ recorded }: Source) =>
  (
    [
      ["project", recorded.project],
      ["scene", recorded.scene],
      ["take", recorded.take],
      ["tape", recorded.tape],
      ["recorder’s note", recorded.note],
      ["recorder", recorded.recorder],
      ["date", recorded.date],
      ["encoder", recorded.encoder],
      ["coding history", recorded.history.join("; ")],
    ] as const
  ).filter(([, text]) => text);

/** Files that hold the same samples: one of them is enough. */
function Twins({ job, source, actions }: Omit<Props, "chosen">) {
  const names = job.sources.filter((one) => source.same_as.includes(one.ref) && !one.archived);
  if (!names.length || source.archived) return null;
  return (
    <Box layerStyle="callout" data-testid="same-samples">
      <Text>Identical to {names.map((one) => one.name).join(" and ")}, sample for sample.</Text>
      <SecondaryButton mt={2} onClick={() => actions.archive([source.ref], true)}>
        archive this file
      </SecondaryButton>
    </Box>
  );
}

type NoteProps = { note: string; onKeep: (note: string, was: string) => Promise<unknown> };

/**
 * What is worth remembering about a file; kept when the field is left. What another window writes meanwhile is shown
 * beside it, and not written over unseen.
 */
function Note({ note, onKeep }: NoteProps) {
  /** What is being written, and what it is written over. */
  const [draft, setDraft] = useState<{ text: string; was: string } | null>(null);
  if (draft && draft.text === note) setDraft(null);
  const text = draft?.text ?? note;
  const leave = () => {
    if (draft) onKeep(draft.text, draft.was).catch(tellProblem);
  };
  return (
    <Field label="Note">
      <Textarea
        size="xs"
        rows={text.includes("\n") ? 4 : 2}
        maxLength={4000}
        placeholder="Anything worth remembering about this file"
        value={text}
        onChange={({ target }) => setDraft({ text: target.value, was: draft?.was ?? note })}
        onBlur={leave}
      />
      {draft && draft.was !== note && (
        <Text textStyle="small" role="status">
          Changed in another window to “{note}”.{" "}
          <SecondaryButton onClick={() => setDraft(null)}>Use theirs</SecondaryButton>{" "}
          <SecondaryButton onClick={() => onKeep(draft.text, note).catch(tellProblem)}>
            Keep mine
          </SecondaryButton>
        </Text>
      )}
    </Field>
  );
}

/** A newer version of a file takes its place in every line that uses it. */
function Replace({ job, source, actions }: Omit<Props, "chosen">) {
  const others = job.sources.filter((one) => one.id !== source.id && !one.archived);
  const alike = others.filter((one) => one.channels === source.channels && one.rate === source.rate);
  if (!alike.length) return null;
  return (
    <SelectField
      label="Replace in all lines with"
      value=""
      options={[["", "Choose a newer version…"], ...alike.map((one) => [one.id, one.name] as const)]}
      onChange={(by) => by && actions.do({ kind: "replaceSource", source: source.id, by })}
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
  "sound-tracks": "film",
  "tracks-left-out": "film",
  "half-missing": "merge",
  twin: "merge",
  "other-rate": "rates",
  "other-start": "recorder",
  "number-missing": "recorder",
  "gain-changed": "recorder",
};

function Found({ finding, source, actions }: { finding: FileFinding; source: string; actions: FileActions }) {
  return (
    <Box
      layerStyle="callout"
      data-tone={isRemark(finding) ? "remark" : undefined}
      data-testid={`finding-${finding.code}`}
    >
      <Text>{finding.message}</Text>
      <Flex gap={2} wrap="wrap">
        {remedySteps(finding, [source]).map(({ label, step }) => (
          <SecondaryButton key={label} mt={2} onClick={() => void actions.add([step])}>
            {label}
          </SecondaryButton>
        ))}
        {GUIDE[finding.code] && (
          <Text textStyle="small" alignSelf="end">
            <GuideLink page={GUIDE[finding.code] ?? ""}>Guide</GuideLink>
          </Text>
        )}
      </Flex>
    </Box>
  );
}
