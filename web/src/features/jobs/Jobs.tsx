/** The start page: every job, and a new one. */
import { Box, Flex, Input, Text } from "@chakra-ui/react";
import { type FormEvent, useState } from "react";
import { Link, useNavigate } from "react-router";
import { useJobsActions } from "../../api/actions";
import type { JobSummary } from "../../api/client";
import { useJobs } from "../../api/queries";
import { ConfirmDelete } from "../../shared/ConfirmDelete";
import { Failed } from "../../shared/Failed";
import { count, date } from "../../shared/format";
import { tellProblem } from "../../shared/notices";
import { PageHeading } from "../../shared/PageHeading";
import { PrimaryButton, QuietButton } from "../../shared/parts";
import { Welcome } from "./Welcome";

export function Jobs() {
  const jobs = useJobs();
  const { create, remove } = useJobsActions();
  const [name, setName] = useState("");
  const [removing, setRemoving] = useState<JobSummary | null>(null);
  const navigate = useNavigate();
  const start = (event: FormEvent) => {
    event.preventDefault();
    const jobName = name.trim() || `Job, ${date(new Date(), { day: "numeric", month: "long" })}`;
    create.mutate(jobName, { onSuccess: (job) => navigate(`/jobs/${job.id}`), onError: tellProblem });
  };
  return (
    <Box maxW="720px" mx="auto" px={4} py={12}>
      <PageHeading as="h1" title="Jobs" size="page" mb={1}>
        Get the channels right before you mix
      </PageHeading>
      <Text layerStyle="quiet" mb={6}>
        Merge, split, swap, invert and decode files, verified sample for sample. Start a job and drop your
        files in.
      </Text>
      <form onSubmit={start}>
        <Flex gap={2} mb={12}>
          <Input
            value={name}
            onChange={(event) => setName(event.target.value)}
            placeholder="Job name"
            aria-label="Job name"
            maxLength={200}
          />
          <PrimaryButton type="submit" loading={create.isPending}>
            New job
          </PrimaryButton>
        </Flex>
      </form>
      {jobs.data?.length === 0 ? (
        <Welcome />
      ) : (
        <Text layerStyle="quiet" textStyle="strong" as="h2" mb={2}>
          Jobs
        </Text>
      )}
      {jobs.isPending && <Text layerStyle="quiet">loading…</Text>}
      {jobs.isError && !jobs.data && <Failed what={jobs.error.message} onRetry={() => void jobs.refetch()} />}
      {jobs.data?.map((job) => (
        <Flex key={job.id} align="center" layerStyle="row" py={0} gap={3} _hover={{ bg: "raised" }}>
          <Link to={`/jobs/${job.id}`} style={{ flex: 1, minWidth: 0, padding: "12px 8px" }}>
            <Text textStyle="strong" truncate>
              {job.name}
            </Text>
            <Text layerStyle="note">
              {count(job.files, "file")} · {count(job.turns, "turn")} · created {date(job.created)}
            </Text>
          </Link>
          <QuietButton mr={2} onClick={() => setRemoving(job)}>
            Delete
          </QuietButton>
        </Flex>
      ))}
      <ConfirmDelete
        title={`Delete ${removing?.name}?`}
        open={removing !== null}
        onClose={() => setRemoving(null)}
        onDelete={() => removing && remove.mutate(removing.id, { onError: tellProblem })}
      >
        This deletes the worksheet, the copies of {count(removing?.files ?? 0, "file")} and all deliveries.
        Your original files are not touched. This can’t be undone.
      </ConfirmDelete>
    </Box>
  );
}
