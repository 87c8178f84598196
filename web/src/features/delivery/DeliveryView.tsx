/** Delivery: what will be written, writing it, and fetching it with its proof. */
import { Box, Checkbox, Flex, Table, Text } from "@chakra-ui/react";
import { useEffect, useMemo, useState } from "react";
import { useDeliver } from "../../api/actions";
import type { Clip, Container, DeliveryRange, Depth, Job, PlannedFile } from "../../api/client";
import { useDeliveries, usePlannedFiles } from "../../api/queries";
import { Failed } from "../../shared/Failed";
import { Select, Toggle } from "../../shared/fields";
import { bytes, clock, count, depth as depthName, duration, layout } from "../../shared/format";
import { tellProblem } from "../../shared/notices";
import { PageHeading } from "../../shared/PageHeading";
import { Empty, PrimaryButton, QuietButton } from "../../shared/parts";
import type { SelectedRange } from "../../shared/places";
import { useSettled } from "../../shared/settled";
import { DeliveryCard } from "./DeliveryCard";
import { NameChoice, PLAIN } from "./NameChoice";
import { RangeChoice } from "./RangeChoice";

const DEPTHS: readonly (readonly [Depth, string])[] = [
  ["same", "same as source"],
  ["16", "16 bit"],
  ["24", "24 bit"],
  ["32", "32 bit"],
  ["float", "32 bit float"],
];

const FORMATS: readonly (readonly [Container, string])[] = [
  ["wav", "WAV"],
  ["flac", "FLAC"],
  ["aiff", "AIFF"],
];

const TYPING = 400; // milliseconds

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
  const [container, setContainer] = useState<Container>("wav");
  const [naming, setNaming] = useState(PLAIN);
  // While a pattern is typed, half a brace is no mistake.
  const typed = useSettled(naming, job.id, TYPING);
  const ends = job.ends.join(" ");
  // Only a worksheet with other ends undoes what was chosen here, not each answer about the same one.
  useEffect(() => setRefs(ends ? ends.split(" ") : []), [ends]);
  const [dither, setDither] = useState(true);
  const [rest, setRest] = useState(false);
  const unused = useMemo(() => unusedFiles(job), [job]);
  const planned = usePlannedFiles(job, { refs, depth, dither, range, rest, container, naming: typed });
  const deliveries = useDeliveries(job.id);
  const deliver = useDeliver(job);
  const file = (ref: string) => planned.data?.find((one) => one.ref === ref);
  const toggle = (ref: string) =>
    setRefs((all) => results.map((c) => c.ref).filter((one) => (one === ref) !== all.includes(one)));
  const impossible = refs.filter((ref) => file(ref)?.outside ?? file(ref)?.refused);
  const start = () =>
    deliver.mutate({ refs, depth, dither, range, rest, container, naming }, { onError: tellProblem });
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
          <Text color="fg.quiet">
            {container === "wav"
              ? "In their own folder, with their timestamps and other chunks."
              : "In their own folder. Tags are kept; what the format can’t store is listed."}
          </Text>
        </Box>
        <Flex gap={3} align="center">
          <Select
            label="Format"
            value={container}
            options={FORMATS}
            onChange={setContainer}
            size="sm"
            width="5.5rem"
          />
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
            disabled={files === 0 || impossible.length > 0}
            loading={changing || deliver.isPending}
          >
            Deliver {count(files, "file")}
          </PrimaryButton>
        </Flex>
      </Flex>
      <NameChoice naming={naming} onNaming={setNaming} />
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
      {impossible.length > 0 && (
        <Flex gap={3} align="center" mb={3} role="alert">
          <Text color="trouble">
            {count(impossible.length, "file")} can’t be delivered with these settings.
          </Text>
          <QuietButton
            color="fg"
            borderWidth={1}
            borderColor="line"
            onClick={() => setRefs((all) => all.filter((ref) => !impossible.includes(ref)))}
          >
            Leave {impossible.length === 1 ? "it" : "them"} out
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
              atMost={container !== "wav"}
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
  /** Its size depends on what is in it. */
  atMost: boolean;
  onToggle: () => void;
}) {
  const { clip, chosen, file, atMost } = props;
  const impossible = file?.outside ?? file?.refused;
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
      {impossible ? (
        <Table.Cell colSpan={3} color="trouble">
          {impossible}
        </Table.Cell>
      ) : (
        <>
          <Table.Cell>{duration(frames, clip.rate)}</Table.Cell>
          <Table.Cell>{start_time === null ? "–" : clock(start_time / clip.rate)}</Table.Cell>
          <Table.Cell>{file && `${atMost ? "up to " : ""}${bytes(file.bytes)}`}</Table.Cell>
        </>
      )}
    </Table.Row>
  );
}
