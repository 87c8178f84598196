/** Every revision of the worksheet. Going back loses nothing; a name makes one a checkpoint. */

import { Box, Flex, Input, Text } from "@chakra-ui/react";
import { useState } from "react";
import { useNameRevision } from "../../api/actions";
import type { Revision } from "../../api/client";
import { useChanges, useRevisions } from "../../api/queries";
import { Failed } from "../../shared/Failed";
import { dateTime } from "../../shared/format";
import { tellProblem } from "../../shared/notices";
import { QuietButton } from "../../shared/parts";
import { Sheet } from "../../shared/Sheet";

type Props = { job: string; onRestore: (revision: string) => void; open: boolean; onClose: () => void };

export function History({ job, onRestore, open, onClose }: Props) {
  const revisions = useRevisions(job);
  const name = useNameRevision(job);
  return (
    <Sheet title="History" open={open} onClose={onClose}>
      <Text color="fg.quiet" mb={3}>
        Every version of the worksheet is kept. Restoring one loses nothing. Name a version to make it a
        checkpoint; one is made before files are archived, replaced or deleted.
      </Text>
      {revisions.isPending && <Text color="fg.quiet">loading…</Text>}
      {revisions.isError && !revisions.data && (
        <Failed what="The history could not be loaded." onRetry={() => void revisions.refetch()} />
      )}
      {revisions.data?.map((revision) => (
        <Line
          key={revision.id}
          job={job}
          revision={revision}
          head={revisions.data.find((one) => one.is_head)?.id ?? null}
          onGo={() => onRestore(revision.id)}
          onName={(text) => name.mutate({ revision: revision.id, name: text }, { onError: tellProblem })}
        />
      ))}
    </Sheet>
  );
}

type LineProps = {
  job: string;
  revision: Revision;
  /** The version that is shown. */
  head: string | null;
  onGo: () => void;
  onName: (name: string | null) => void;
};

function Line({ job, revision, head, onGo, onName }: LineProps) {
  const [text, setText] = useState<string | null>(null);
  const [compared, setCompared] = useState(false);
  const keep = () => {
    if (text !== null && text.trim() !== (revision.name ?? "")) onName(text.trim() || null);
    setText(null);
  };
  return (
    <Flex
      gap={3}
      align="center"
      py={1.5}
      borderTopWidth={1}
      borderColor="line"
      aria-current={revision.is_head || undefined}
    >
      <Text color="fg.quiet" w={6} fontSize="xs">
        {revision.number}
      </Text>
      <Box flex={1} minW={0}>
        {text !== null ? (
          <Input
            size="xs"
            autoFocus
            value={text}
            aria-label="Checkpoint name"
            onChange={(event) => setText(event.target.value)}
            onBlur={keep}
            onKeyDown={(event) => {
              if (event.key !== "Enter") return;
              // Else the same press would also push the button that has the focus next.
              event.preventDefault();
              keep();
            }}
          />
        ) : (
          <Text truncate fontWeight={revision.name ? 700 : 400}>
            {revision.name ?? revision.label}
          </Text>
        )}
        <Text fontSize="xs" color="fg.quiet">
          {revision.name ? `${revision.label} · ` : ""}
          {dateTime(revision.created)}
        </Text>
        {compared && (
          <>
            {revision.parent && <Changes job={job} revision={revision.id} since={null} title="Changed" />}
            {head && !revision.is_head && (
              <Changes job={job} revision={head} since={revision.id} title="Since then" />
            )}
          </>
        )}
      </Box>
      {(revision.parent || !revision.is_head) && (
        <QuietButton
          aria-expanded={compared}
          _expanded={{ bg: "raised.high", color: "fg" }}
          onClick={() => setCompared(!compared)}
        >
          Compare
        </QuietButton>
      )}
      <QuietButton onClick={() => setText(revision.name ?? "")}>
        {revision.name ? "Rename…" : "Name…"}
      </QuietButton>
      {revision.is_head ? (
        <Text w={24} textAlign="center" color="proved" fontSize="xs" whiteSpace="nowrap">
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

/** What one version changed against another, line by line. */
function Changes(props: { job: string; revision: string; since: string | null; title: string }) {
  const { data, isError, refetch } = useChanges(props.job, props.revision, props.since, true);
  if (isError) return <Failed what="These versions can’t be compared." onRetry={() => void refetch()} />;
  return (
    <Box mt={1} fontSize="xs" role="group" aria-label={props.title}>
      <Text color="fg.quiet">
        {data ? (data.length ? `${props.title}:` : `${props.title}: nothing`) : "…"}
      </Text>
      {data?.map((sentence) => (
        <Text key={sentence}>{sentence}</Text>
      ))}
    </Box>
  );
}
