/** Disk space used by each job, and what of it can be cleared. */
import { Box, Text } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { clearJob, useJobsActions } from "../../api/actions";
import type { JobDiskUsage } from "../../api/client";
import { refetch, useStorage } from "../../api/queries";
import { ConfirmDelete } from "../../shared/ConfirmDelete";
import { Failed } from "../../shared/Failed";
import { bytes } from "../../shared/format";
import { tellProblem } from "../../shared/notices";
import { PageHeading } from "../../shared/PageHeading";
import { QuietButton } from "../../shared/parts";

type Asked = { do: "deliveries" | "delete"; job: JobDiskUsage };

export function Storage() {
  const storage = useStorage();
  const queries = useQueryClient();
  const { remove } = useJobsActions();
  const [asked, setAsked] = useState<Asked | null>(null);
  const again = () => refetch(queries, ["storage"]);
  const clear = (job: string, what: "derived" | "deliveries") =>
    void clearJob(job, what).catch(tellProblem).finally(again);
  const act = () => {
    if (asked?.do === "deliveries") clear(asked.job.id, "deliveries");
    if (asked?.do === "delete") remove.mutate(asked.job.id, { onError: tellProblem, onSettled: again });
    setAsked(null);
  };
  const use = storage.data;
  return (
    <Box maxW="960px" mx="auto" px={4} py={12}>
      <PageHeading as="h1" title="Storage" size="page" mb={1}>
        Storage
      </PageHeading>
      <Text layerStyle="quiet" mb={6}>
        Working copies and waveforms are rebuilt when needed. A shared file is stored once but counted in
        every job.
      </Text>
      {storage.isPending && <Text layerStyle="quiet">calculating…</Text>}
      {storage.isError && !use && (
        <Failed what={storage.error.message} onRetry={() => void storage.refetch()} />
      )}
      {use && (
        <Box as="table" w="full" aria-label="Disk space by job">
          <thead>
            <tr>
              <Head left>job</Head>
              <Head>files</Head>
              <Head>working copies</Head>
              <Head>waveforms</Head>
              <Head>deliveries</Head>
              <Head>freed if deleted</Head>
              <td />
            </tr>
          </thead>
          <tbody>
            {use.jobs.map((job) => (
              <Row key={job.id} name={job.name} figures={[...figures(job), job.freed]}>
                <QuietButton
                  disabled={job.working + job.pictures === 0}
                  aria-label={`Clear copies and pictures of ${job.name}`}
                  onClick={() => clear(job.id, "derived")}
                >
                  Clear copies and pictures
                </QuietButton>
                <QuietButton
                  disabled={job.deliveries === 0}
                  aria-label={`Delete deliveries of ${job.name}`}
                  onClick={() => setAsked({ do: "deliveries", job })}
                >
                  Delete deliveries
                </QuietButton>
                <QuietButton
                  aria-label={`Delete ${job.name}`}
                  onClick={() => setAsked({ do: "delete", job })}
                >
                  Delete job
                </QuietButton>
              </Row>
            ))}
            <Row name="Total" figures={[...figures(use), null]} strong>
              {null}
            </Row>
          </tbody>
        </Box>
      )}
      {use && (
        <Text layerStyle="quiet" mt={4}>
          Database {bytes(use.database)} · {bytes(use.free)} free on this disk
        </Text>
      )}
      <ConfirmDelete
        title={
          asked?.do === "delete" ? `Delete ${asked.job.name}?` : `Delete deliveries of ${asked?.job.name}?`
        }
        open={asked !== null}
        onClose={() => setAsked(null)}
        onDelete={act}
      >
        {asked?.do === "delete"
          ? "This deletes the job, its deliveries and the files only it uses from the data folder. Your original files are not touched. "
          : "This deletes the delivered files from the data folder; what you have downloaded stays. Deliver again to make them anew. "}
        This can’t be undone.
      </ConfirmDelete>
    </Box>
  );
}

const figures = (use: Omit<JobDiskUsage, "id" | "name" | "freed">) => [
  use.files,
  use.working,
  use.pictures,
  use.deliveries,
];

function Head({ children, left = false }: { children: string; left?: boolean }) {
  return (
    <Box as="th" textAlign={left ? "left" : "right"} layerStyle="note" textStyle="plain" px={2} pb={1}>
      {children}
    </Box>
  );
}

type RowProps = {
  name: string;
  figures: readonly (number | null)[];
  strong?: boolean;
  children: ReactNode;
};

function Row({ name, figures, strong = false, children }: RowProps) {
  return (
    <Box layerStyle="parted" as="tr">
      <Box textStyle="strong" as="th" textAlign="left" px={2} py={2} maxW="14rem" overflowWrap="anywhere">
        {name}
      </Box>
      {figures.map((figure, n) => (
        <Box
          textStyle={strong ? "total" : "mono"}
          as="td"
          // biome-ignore lint/suspicious/noArrayIndexKey: columns stay where they are
          key={n}
          textAlign="right"
          whiteSpace="nowrap"
          px={2}
        >
          {figure === null ? "" : figure ? bytes(figure) : "–"}
        </Box>
      ))}
      <Box as="td" whiteSpace="nowrap" textAlign="right">
        {children}
      </Box>
    </Box>
  );
}
