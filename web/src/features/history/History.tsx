/** Every revision of the worksheet. Going back loses nothing; a name makes one a checkpoint. */

import { Box, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import { useNameRevision } from "../../api/actions";
import type { Revision } from "../../api/client";
import { useChanges, useRevisions } from "../../api/queries";
import { Failed } from "../../shared/Failed";
import { dateTime } from "../../shared/format";
import { LongList } from "../../shared/LongList";
import { NameField } from "../../shared/NameField";
import { tellProblem } from "../../shared/notices";
import { QuietButton } from "../../shared/parts";
import { Sheet } from "../../shared/Sheet";
import { type Compared, PANE } from "./ComparePanel";

type Props = {
  job: string;
  onRestore: (revision: string) => void;
  onRestoreLine: (revision: string, step: string) => void;
  onHear: (compared: Compared) => void;
  open: boolean;
  onClose: () => void;
};

export function History({ open, onClose, ...list }: Props) {
  return (
    // Whoever goes to hear something plays and compares next.
    <Sheet title="History" open={open} onClose={onClose} finalFocus={() => document.getElementById(PANE)}>
      <Text layerStyle="quiet" mb={3}>
        Every version of the worksheet is kept. Restoring one loses nothing. Name a version to make it a
        checkpoint. One is also made before files are archived, replaced or deleted.
      </Text>
      <Revisions {...list} />
    </Sheet>
  );
}

/** Fetched each time the sheet opens, so that nobody compares or restores from a list older than their last edit. */
function Revisions({ job, onRestore, onRestoreLine, onHear }: Omit<Props, "open" | "onClose">) {
  const revisions = useRevisions(job);
  const name = useNameRevision(job);
  return (
    <>
      {revisions.isPending && <Text layerStyle="quiet">loading…</Text>}
      {revisions.isError && !revisions.data && (
        <Failed what="The history could not be loaded." onRetry={() => void revisions.refetch()} />
      )}
      {revisions.data && (
        <LongList
          rows={revisions.data}
          keyOf={({ id }) => id}
          estimate={57}
          maxH="calc(100vh - 16rem)"
          role="group"
          aria-label="Versions"
        >
          {(revision) => (
            <Line
              job={job}
              revision={revision}
              all={revisions.data}
              onRestoreLine={onRestoreLine}
              onHear={onHear}
              onGo={() => onRestore(revision.id)}
              onName={(text) => name.mutate({ revision: revision.id, name: text }, { onError: tellProblem })}
            />
          )}
        </LongList>
      )}
    </>
  );
}

type LineProps = {
  job: string;
  revision: Revision;
  all: readonly Revision[];
  onRestoreLine: Props["onRestoreLine"];
  onHear: Props["onHear"];
  onGo: () => void;
  onName: (name: string | null) => void;
};

function Line({ job, revision, all, onRestoreLine, onHear, onGo, onName }: LineProps) {
  const head = all.find((one) => one.is_head)?.id ?? null;
  const parent = all.find((one) => one.id === revision.parent) ?? null;
  const [naming, setNaming] = useState(false);
  const [compared, setCompared] = useState(false);
  const keep = (text: string) => {
    if (text !== (revision.name ?? "")) onName(text || null);
    setNaming(false);
  };
  return (
    <Flex gap={3} align="center" layerStyle="row" aria-current={revision.is_head || undefined}>
      <Text layerStyle="note" w={6}>
        {revision.number}
      </Text>
      <Box flex={1} minW={0}>
        {naming ? (
          <NameField label="Checkpoint name" value={revision.name ?? ""} onKeep={keep} />
        ) : (
          <Text truncate textStyle={revision.name ? "strong" : "plain"}>
            {revision.name ?? revision.label}
          </Text>
        )}
        <Text layerStyle="note">
          {revision.name ? `${revision.label} · ` : ""}
          {dateTime(revision.created)}
        </Text>
        {compared && (
          <>
            {revision.parent && (
              <Changes
                job={job}
                revision={revision.id}
                since={null}
                title="Changed"
                then={revision.is_head ? parent : null}
                onRestoreLine={onRestoreLine}
                onHear={onHear}
              />
            )}
            {head && !revision.is_head && (
              <Changes
                job={job}
                revision={head}
                since={revision.id}
                title="Since then"
                then={revision}
                onRestoreLine={onRestoreLine}
                onHear={onHear}
              />
            )}
          </>
        )}
      </Box>
      {(revision.parent || !revision.is_head) && (
        <QuietButton aria-expanded={compared} onClick={() => setCompared(!compared)}>
          Compare
        </QuietButton>
      )}
      <QuietButton onClick={() => setNaming(true)}>{revision.name ? "Rename…" : "Name…"}</QuietButton>
      {revision.is_head ? (
        <Text layerStyle="ok" textStyle="small" w={24} textAlign="center" whiteSpace="nowrap">
          current
        </Text>
      ) : (
        <QuietButton w={24} onClick={onGo}>
          Restore
        </QuietButton>
      )}
    </Flex>
  );
}

type ChangesProps = {
  job: string;
  revision: string;
  since: string | null;
  title: string;
  /** The earlier version, where the later one is the current one: its lines can be heard and restored. */
  then: Revision | null;
  onRestoreLine: Props["onRestoreLine"];
  onHear: Props["onHear"];
};

/** What one version changed against another, line by line. */
function Changes(props: ChangesProps) {
  const { then } = props;
  const { data, isError, refetch } = useChanges(props.job, props.revision, props.since, true);
  if (isError) return <Failed what="These versions can’t be compared." onRetry={() => void refetch()} />;
  return (
    <Box textStyle="small" mt={1} role="group" aria-label={props.title}>
      <Text layerStyle="quiet">
        {data ? (data.length ? `${props.title}:` : `${props.title}: nothing`) : "…"}
      </Text>
      {data?.map(({ sentence, step, made_then }) => (
        <Flex key={sentence} gap={1} align="baseline" justify="space-between">
          <Text>{sentence}</Text>
          {then && step && made_then && (
            <Flex flexShrink={0}>
              <QuietButton
                size="2xs"
                onClick={() => props.onHear({ revision: then.id, number: then.number, step, sentence })}
              >
                Compare by ear
              </QuietButton>
              <QuietButton size="2xs" onClick={() => props.onRestoreLine(then.id, step)}>
                Restore this line
              </QuietButton>
            </Flex>
          )}
        </Flex>
      ))}
    </Box>
  );
}
