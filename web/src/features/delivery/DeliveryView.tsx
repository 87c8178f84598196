/** Delivery: what will be written, writing it, and fetching it with its proof. */
import { Box, Checkbox, Flex, Progress, Table, Text } from "@chakra-ui/react";
import { Check, Download, TriangleAlert } from "lucide-react";
import { useEffect, useMemo, useState } from "react";
import { deleteDelivery, stopDelivery, useDeliver } from "../../api/actions";
import type { Clip, Delivery, Depth, Job, PlannedFile } from "../../api/client";
import { useDeliveries, usePlannedFiles } from "../../api/queries";
import { Failed } from "../../shared/Failed";
import { Select, Toggle } from "../../shared/fields";
import { bytes, clock, count, depth as depthName, duration, layout } from "../../shared/format";
import { tellProblem } from "../../shared/notices";
import { PageHeading } from "../../shared/PageHeading";
import { Empty, PrimaryButton, QuietButton } from "../../shared/parts";

const DEPTHS: readonly (readonly [Depth, string])[] = [
  ["same", "as it came in"],
  ["16", "16 bit"],
  ["24", "24 bit"],
  ["32", "32 bit"],
  ["float", "32 bit float"],
];

/** `changing` says that an edit is on its way: what would be delivered is about to be another. */
export function DeliveryView({ job, changing }: { job: Job; changing: boolean }) {
  const results = useMemo(() => job.steps.flatMap((step) => step.outputs), [job.steps]);
  const [refs, setRefs] = useState<string[]>(job.ends);
  const [depth, setDepth] = useState<Depth>("same");
  useEffect(() => setRefs(job.ends), [job.ends]);
  const [dither, setDither] = useState(true);
  const planned = usePlannedFiles(job, refs, depth, dither);
  const deliveries = useDeliveries(job.id);
  const deliver = useDeliver(job);
  const file = (ref: string) => planned.data?.find((one) => one.ref === ref);
  const toggle = (ref: string) =>
    setRefs((all) => results.map((c) => c.ref).filter((one) => (one === ref) !== all.includes(one)));
  const start = () => deliver.mutate({ refs, depth, dither }, { onError: tellProblem });

  if (results.length === 0)
    return (
      <Empty title="Nothing to deliver yet">
        Add a turn on the worksheet: what it makes is delivered from here.
      </Empty>
    );
  return (
    <Box maxW="1000px" mx="auto" px={6} py={6}>
      <Flex align="end" justify="space-between" gap={4} mb={4}>
        <Box>
          <PageHeading as="h2" title={`Delivery of ${job.name}`} fontSize="xl">
            What will be written
          </PageHeading>
          <Text color="fg.quiet">
            WAV files in a folder of their own, with the start times they came in with.
          </Text>
        </Box>
        <Flex gap={3} align="center">
          <Text color="fg.quiet" flexShrink={0}>
            Bit depth
          </Text>
          <Select
            label="Bit depth"
            value={depth}
            options={DEPTHS}
            onChange={setDepth}
            size="sm"
            width="9.5rem"
          />
          <Toggle label="Dither" on={dither} onChange={setDither} />
          <PrimaryButton onClick={start} disabled={refs.length === 0} loading={changing || deliver.isPending}>
            Deliver {count(refs.length, "file")}
          </PrimaryButton>
        </Flex>
      </Flex>
      {planned.isError && <Failed what={planned.error.message} onRetry={() => void planned.refetch()} />}
      <Table.Root size="sm" mb={10}>
        <Table.Header>
          <Table.Row bg="transparent">
            {["Deliver", "File", "What it is", "Length", "Starts at", "Size"].map((title) => (
              <Table.ColumnHeader key={title} color="fg.quiet">
                {title}
              </Table.ColumnHeader>
            ))}
          </Table.Row>
        </Table.Header>
        <Table.Body>
          {results.map((clip) => (
            <ResultRow
              key={clip.ref}
              clip={clip}
              chosen={refs.includes(clip.ref)}
              file={file(clip.ref) ?? null}
              onToggle={() => toggle(clip.ref)}
            />
          ))}
        </Table.Body>
      </Table.Root>
      {deliveries.isError && !deliveries.data && (
        <Failed what="The deliveries could not be fetched." onRetry={() => void deliveries.refetch()} />
      )}
      {deliveries.data && deliveries.data.length > 0 && (
        <Text as="h2" fontWeight={700} mb={2}>
          Deliveries
        </Text>
      )}
      {deliveries.data?.map((delivery) => (
        <DeliveryCard key={delivery.id} delivery={delivery} />
      ))}
    </Box>
  );
}

function ResultRow(props: {
  clip: Clip;
  chosen: boolean;
  /** What would be written; null while that is worked out, or where it is not chosen. */
  file: PlannedFile | null;
  onToggle: () => void;
}) {
  const { clip, chosen, file } = props;
  const name = file?.file ?? clip.name;
  return (
    <Table.Row bg="transparent" color={chosen ? "fg" : "fg.quiet"}>
      <Table.Cell w={8}>
        <Checkbox.Root size="sm" checked={chosen} onCheckedChange={props.onToggle}>
          <Checkbox.HiddenInput aria-label={`Deliver ${clip.name}`} />
          <Checkbox.Control borderColor="fg.quiet" />
        </Checkbox.Root>
      </Table.Cell>
      <Table.Cell fontWeight={600} overflowWrap="anywhere">
        {name}
      </Table.Cell>
      <Table.Cell>
        {layout(clip.channels)} · {clip.rate / 1000} kHz{file && ` · ${depthName(file.depth)}`}
      </Table.Cell>
      <Table.Cell>{duration(clip.frames, clip.rate)}</Table.Cell>
      <Table.Cell>{clip.start_time === null ? "–" : clock(clip.start_time / clip.rate)}</Table.Cell>
      <Table.Cell>{file && bytes(file.bytes)}</Table.Cell>
    </Table.Row>
  );
}

function DeliveryCard({ delivery }: { delivery: Delivery }) {
  const { id, state, progress, manifest, error } = delivery;
  const running = state === "waiting" || state === "writing";
  const base = `/api/deliveries/${id}`;
  return (
    <Box bg="raised" borderRadius="md" p={4} mb={3} data-testid="delivery" data-state={state}>
      <Flex align="center" gap={3} mb={running || manifest || error ? 2 : 0}>
        <Text fontWeight={600} flex={1}>
          {STATES[state]} · {count(delivery.refs.length, "file")} ·{" "}
          <Text as="span" color="fg.quiet" fontWeight={400}>
            {new Date(delivery.created).toLocaleString()}
          </Text>
        </Text>
        {running && <QuietButton onClick={() => void stopDelivery(id).catch(tellProblem)}>Stop</QuietButton>}
        {manifest && (
          <QuietButton asChild color="fg" borderWidth={1} borderColor="line">
            <a href={`${base}/archive`} download>
              <Download size={14} /> Download all as ZIP
            </a>
          </QuietButton>
        )}
        {!running && (
          <QuietButton onClick={() => void deleteDelivery(id).catch(tellProblem)}>
            {manifest ? "Remove" : "Dismiss"}
          </QuietButton>
        )}
      </Flex>
      {running && (
        <Progress.Root value={progress * 100} size="xs">
          <Progress.Track bg="raised.high" aria-label="Progress of the delivery">
            <Progress.Range bg="right" />
          </Progress.Track>
        </Progress.Root>
      )}
      {error && (
        <Text color="trouble" role="alert">
          {error.message}. <Text as="span">{error.help}</Text>
        </Text>
      )}
      {manifest?.files.map((file) => (
        <Flex key={file.name} gap={3} py={0.5}>
          <a
            href={`${base}/files/${encodeURIComponent(file.name)}`}
            download
            style={{ overflowWrap: "anywhere" }}
          >
            {file.name}
          </a>
          <Text
            color="fg.quiet"
            ml="auto"
            flexShrink={0}
            fontFamily="mono"
            fontSize="xs"
            title="XXH128 checksum of the file"
          >
            {file.xxh128.slice(0, 12)}
          </Text>
          <Text color="fg.quiet" w={16} textAlign="right" flexShrink={0}>
            {bytes(file.bytes)}
          </Text>
        </Flex>
      ))}
      {manifest?.proofs.map(({ key, proof }) => (
        <Flex key={key} gap={2} mt={1} color={proof.exact ? "proved" : "fg"} data-testid="delivery-proof">
          <Box flexShrink={0} pt={0.5}>
            {proof.exact ? <Check size={14} /> : <TriangleAlert size={14} />}
          </Box>
          <Text>{proof.statement}</Text>
        </Flex>
      ))}
      {manifest?.findings?.map((finding) => (
        <Text key={finding.message} color="fg.quiet" mt={1}>
          {finding.message}
        </Text>
      ))}
    </Box>
  );
}

const STATES: Record<Delivery["state"], string> = {
  waiting: "Waiting",
  writing: "Writing and proving",
  done: "Delivered",
  failed: "Failed",
  stopped: "Stopped",
};
