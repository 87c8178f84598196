/** Delivery: what will be written, writing it, and fetching it with its proof. */
import { Box, Checkbox, Flex, Table, Text } from "@chakra-ui/react";
import { useEffect, useMemo, useState } from "react";
import { useDeliver } from "../../api/actions";
import type { Clip, DeliveryRange, Depth, Job, PlannedFile } from "../../api/client";
import { useDeliveries, usePlannedFiles } from "../../api/queries";
import { Failed } from "../../shared/Failed";
import { Select, Toggle } from "../../shared/fields";
import { bytes, clock, count, depth as depthName, duration, layout } from "../../shared/format";
import { tellProblem } from "../../shared/notices";
import { PageHeading } from "../../shared/PageHeading";
import { Empty, PrimaryButton, QuietButton } from "../../shared/parts";
import type { SelectedRange } from "../../shared/places";
import { DeliveryCard } from "./DeliveryCard";
import { RangeChoice } from "./RangeChoice";

const DEPTHS: readonly (readonly [Depth, string])[] = [
  ["same", "same as source"],
  ["16", "16 bit"],
  ["24", "24 bit"],
  ["32", "32 bit"],
  ["float", "32 bit float"],
];

/** `changing` says that an edit is on its way: what would be delivered is about to be another. */
type Props = {
  job: Job;
  changing: boolean;
  /** What every file is trimmed to; null for all of it. */
  range: DeliveryRange;
  onRange: (range: DeliveryRange) => void;
  selected: () => SelectedRange | null;
};

export function DeliveryView({ job, changing, range, onRange, selected }: Props) {
  const results = useMemo(() => job.steps.flatMap((step) => step.outputs), [job.steps]);
  const [refs, setRefs] = useState<string[]>(job.ends);
  const [depth, setDepth] = useState<Depth>("same");
  const ends = job.ends.join(" ");
  // Only a worksheet with other ends undoes what was chosen here, not each answer about the same one.
  useEffect(() => setRefs(ends ? ends.split(" ") : []), [ends]);
  const [dither, setDither] = useState(true);
  const [rest, setRest] = useState(false);
  const unused = useMemo(() => unusedFiles(job), [job]);
  const planned = usePlannedFiles(job, { refs, depth, dither, range, rest });
  const deliveries = useDeliveries(job.id);
  const deliver = useDeliver(job);
  const file = (ref: string) => planned.data?.find((one) => one.ref === ref);
  const toggle = (ref: string) =>
    setRefs((all) => results.map((c) => c.ref).filter((one) => (one === ref) !== all.includes(one)));
  const outside = refs.filter((ref) => file(ref)?.outside);
  const start = () => deliver.mutate({ refs, depth, dither, range, rest }, { onError: tellProblem });
  const files = refs.length + (rest ? unused : 0);

  if (results.length === 0 && unused === 0)
    return (
      <Empty title="Nothing to deliver yet">Add a turn on the worksheet: its outputs appear here.</Empty>
    );
  return (
    <Box maxW="1000px" mx="auto" px={6} py={6}>
      <Flex align="end" justify="space-between" gap={4} mb={4}>
        <Box>
          <PageHeading as="h2" title={`Delivery of ${job.name}`} fontSize="xl">
            Files to deliver
          </PageHeading>
          <Text color="fg.quiet">WAV files in their own folder, with their timestamps.</Text>
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
          <PrimaryButton
            onClick={start}
            disabled={files === 0 || outside.length > 0}
            loading={changing || deliver.isPending}
          >
            Deliver {count(files, "file")}
          </PrimaryButton>
        </Flex>
      </Flex>
      <RangeChoice
        range={range}
        clips={results.filter((clip) => refs.includes(clip.ref))}
        selected={selected}
        onRange={onRange}
      />
      {unused > 0 && (
        <Box mb={4}>
          <Toggle
            label={`Include ${count(unused, "file")} not used by any line, copied byte for byte`}
            on={rest}
            onChange={setRest}
          />
        </Box>
      )}
      {outside.length > 0 && (
        <Flex gap={3} align="center" mb={3} role="alert">
          <Text color="trouble">{count(outside.length, "file")} can’t be cut to this range.</Text>
          <QuietButton
            color="fg"
            borderWidth={1}
            borderColor="line"
            onClick={() => setRefs((all) => all.filter((ref) => !outside.includes(ref)))}
          >
            Leave {outside.length === 1 ? "it" : "them"} out
          </QuietButton>
        </Flex>
      )}
      {planned.isError && <Failed what={planned.error.message} onRetry={() => void planned.refetch()} />}
      <Table.Root size="sm" mb={10}>
        <Table.Header>
          <Table.Row bg="transparent">
            {["Deliver", "File", "Format", "Length", "Start time", "Size"].map((title) => (
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
        <Failed what="The deliveries could not be loaded." onRetry={() => void deliveries.refetch()} />
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

/** How many files no line uses that are not archived. */
function unusedFiles(job: Job): number {
  const used = new Set(job.steps.flatMap((step) => step.inputs));
  return job.sources.filter((one) => !one.archived && !used.has(one.ref)).length;
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
  const { frames, start_time } = file ?? clip;
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
      {file?.outside ? (
        <Table.Cell colSpan={3} color="trouble">
          {file.outside}
        </Table.Cell>
      ) : (
        <>
          <Table.Cell>{duration(frames, clip.rate)}</Table.Cell>
          <Table.Cell>{start_time === null ? "–" : clock(start_time / clip.rate)}</Table.Cell>
          <Table.Cell>{file && bytes(file.bytes)}</Table.Cell>
        </>
      )}
    </Table.Row>
  );
}
