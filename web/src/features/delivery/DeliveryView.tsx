/** Delivery: what will be written, writing it, and fetching it with its proof. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useEffect, useMemo, useRef, useState } from "react";
import { useDeliver } from "../../api/actions";
import type {
  Delivery,
  DeliveryRange,
  DeliverySettings,
  Job,
  NewStep,
  Order,
  Source,
} from "../../api/client";
import { useDeliveries, usePlannedFiles } from "../../api/queries";
import { Failed } from "../../shared/Failed";
import { Select, Toggle } from "../../shared/fields";
import { count } from "../../shared/format";
import { tell, tellProblem } from "../../shared/notices";
import { PageHeading } from "../../shared/PageHeading";
import { Empty, PrimaryButton, SecondaryButton } from "../../shared/parts";
import type { SelectedRange } from "../../shared/places";
import { useSettled } from "../../shared/settled";
import { Choice } from "./Choice";
import { Clipping } from "./Clipping";
import { DeliveryCard } from "./DeliveryCard";
import { Destination } from "./Destination";
import { isRunning } from "./direct";
import { NameChoice } from "./NameChoice";
import { OtherFiles } from "./OtherFiles";
import { RangeChoice } from "./RangeChoice";
import { ResultTable } from "./ResultTable";
import { SavedSettings } from "./SavedSettings";
import { DEFAULTS, DEPTHS, FORMATS } from "./settings";

const TYPING = 400; // milliseconds

/** `changing` says that an edit is on its way: what would be delivered is about to be another. */
export type KeptChoice = {
  settings: DeliverySettings;
  to: string | null;
  /** Results that are delivered, of a worksheet that ended in these, and other files that go along. */
  ends: string;
  refs: string[];
  copies: string[];
  /** The delivery that was begun last. */
  begun: string | null;
};
type Props = {
  job: Job;
  changing: boolean;
  /** What every file is trimmed to; null for all of it. */
  range: DeliveryRange;
  onRange: (range: DeliveryRange) => void;
  selected: () => SelectedRange | null;
  /** What was chosen here before the worksheet was looked at, and where to keep it meanwhile. */
  kept?: KeptChoice | null;
  onKeep?: (choice: KeptChoice) => void;
  /** Add lines to the worksheet. */
  onAdd: (steps: NewStep[]) => void;
};

export function DeliveryView({ job, changing, range, onRange, selected, kept, onKeep, onAdd }: Props) {
  const results = useMemo(() => job.steps.flatMap((step) => step.outputs), [job.steps]);
  const ends = job.ends.join(" ");
  const [refs, setRefs] = useState<string[]>(kept?.ends === ends ? kept.refs : job.ends);
  const [settings, setSettings] = useState(kept?.settings ?? DEFAULTS);
  const [to, setTo] = useState<string | null>(kept?.to ?? null);
  const [copies, setCopies] = useState<string[]>(kept?.copies ?? []);
  const [begun, setBegun] = useState<string | null>(kept?.begun ?? null);
  const change = (part: Partial<DeliverySettings>) => setSettings((all) => ({ ...all, ...part }));
  // Only a worksheet with other ends undoes what was chosen here, not each answer about the same one.
  const [endsBefore, setEndsBefore] = useState(ends);
  if (ends !== endsBefore) {
    setEndsBefore(ends);
    setRefs(job.ends);
  }
  useEffect(
    () => onKeep?.({ settings, to, ends, refs, copies, begun }),
    [onKeep, settings, to, ends, refs, copies, begun],
  );
  // While a pattern is typed, half a brace is no mistake.
  const naming = useSettled(settings.naming, job.id, TYPING);
  const unused = useMemo(() => unusedFiles(job), [job]);
  const planned = usePlannedFiles(job, { ...settings, naming, refs, copies: [], range, to: null });
  const deliveries = useDeliveries(job.id);
  const deliver = useDeliver(job);
  const files = planned.data?.filter((file) => refs.includes(file.ref)) ?? [];
  const impossible = files.filter((file) => file.outside ?? file.refused).map((file) => file.ref);
  const toggle = (ref: string) =>
    setRefs((all) => results.map((c) => c.ref).filter((one) => (one === ref) !== all.includes(one)));
  const top = useRef<HTMLDivElement>(null);
  const start = (order: Order) =>
    deliver.mutate(order, {
      onSuccess: ({ id }) => {
        setBegun(id);
        top.current?.scrollIntoView?.({ block: "start" });
      },
      onError: tellProblem,
    });
  const again = (delivery: Delivery) => {
    const there = delivery.refs.filter((ref) => results.some((clip) => clip.ref === ref));
    const along = delivery.copies.filter((ref) => unused.some((one) => one.ref === ref));
    const gone = delivery.refs.length + delivery.copies.length - there.length - along.length;
    if (there.length + along.length === 0 && !delivery.settings.rest)
      return tell(
        "Nothing to deliver again",
        "The results of this delivery were removed. Choose what to deliver.",
      );
    if (gone > 0) tell(`Delivered without ${count(gone, "file")}`, "The worksheet no longer has them.");
    start({
      ...(delivery.settings as DeliverySettings),
      refs: there,
      copies: along,
      range: delivery.range,
      to: delivery.to,
    });
  };
  const chosen = settings.rest
    ? unused.map((one) => one.ref)
    : copies.filter((ref) => unused.some((one) => one.ref === ref));
  const chooseFiles = (refs: string[]) => {
    change({ rest: refs.length === unused.length });
    setCopies(refs);
  };
  const all = refs.length + chosen.length;
  const listed = deliveries.data ?? [];
  const current = listed.find((one) => one.id === begun || isRunning(one));
  // When they are delivered, the next thing is to fetch them.
  const Deliver = current?.state === "done" ? SecondaryButton : PrimaryButton;
  const card = (delivery: Delivery) => (
    <DeliveryCard
      key={delivery.id}
      delivery={delivery}
      latest={delivery === current}
      earlier={listed.slice(listed.indexOf(delivery) + 1).filter((one) => one.manifest)}
      onAgain={() => again(delivery)}
    />
  );

  if (results.length === 0 && unused.length === 0)
    return (
      <Empty title="Nothing to deliver yet">Add a turn on the worksheet: its outputs appear here.</Empty>
    );
  return (
    <Box ref={top} w="full" maxW="1000px" mx="auto" px={6} py={6}>
      <Flex align="end" justify="space-between" gap={4} mb={6}>
        <Box>
          <PageHeading as="h2" title={`Delivery of ${job.name}`} size="part">
            Files to deliver
          </PageHeading>
          <Text layerStyle="quiet">With a manifest and a report. Unchanged files aren’t rewritten.</Text>
        </Box>
        <Deliver
          size="sm"
          onClick={() => start({ ...settings, refs, copies: settings.rest ? [] : chosen, range, to })}
          disabled={all === 0 || impossible.length > 0 || to?.trim() === ""}
          loading={changing || deliver.isPending}
        >
          Deliver {count(all, "file")}
        </Deliver>
      </Flex>
      {current && card(current)}
      <SavedSettings settings={settings} onSettings={setSettings} />
      <Choice label="Format">
        <Select
          label="Format"
          value={settings.container}
          options={FORMATS}
          onChange={(container) => change({ container })}
          size="sm"
          width="5.5rem"
        />
        <Select
          label="Bit depth"
          value={settings.depth}
          options={DEPTHS}
          onChange={(depth) => change({ depth })}
          size="sm"
          width="9.5rem"
        />
        <Toggle label="Dither" on={settings.dither} onChange={(dither) => change({ dither })} />
        <Text layerStyle="quiet">
          {settings.container === "aiff"
            ? "Metadata AIFF can’t hold is listed in the report."
            : "With timestamps, channel names, markers and tags."}
        </Text>
      </Choice>
      <NameChoice naming={settings.naming} onNaming={(naming) => change({ naming })} />
      <RangeChoice
        range={range}
        clips={results.filter((clip) => refs.includes(clip.ref))}
        selected={selected}
        onRange={onRange}
      />
      <Destination job={job.name} to={to} onTo={setTo} />
      {job.sources.some((source) => source.folder) && (
        <Choice label="Folders">
          <Toggle
            label="Keep the folders the sources came from"
            on={settings.folders}
            onChange={(folders) => change({ folders })}
          />
        </Choice>
      )}
      <OtherFiles unused={unused} chosen={chosen} onChosen={chooseFiles} />
      {impossible.length > 0 && (
        <Flex gap={3} align="center" mb={3} role="alert">
          <Text layerStyle="danger">
            {count(impossible.length, "file")} can’t be delivered with these settings.
          </Text>
          <SecondaryButton onClick={() => setRefs((all) => all.filter((ref) => !impossible.includes(ref)))}>
            Skip {impossible.length === 1 ? "it" : "them"}
          </SecondaryButton>
        </Flex>
      )}
      <Clipping planned={files} onLower={onAdd} />
      {planned.isError && <Failed what={planned.error.message} onRetry={() => void planned.refetch()} />}
      <ResultTable
        results={results}
        chosen={refs}
        planned={files}
        atMost={settings.container !== "wav"}
        onToggle={toggle}
      />
      {deliveries.isError && !deliveries.data && (
        <Failed what="The deliveries could not be loaded." onRetry={() => void deliveries.refetch()} />
      )}
      {listed.some((one) => one !== current) && (
        <Text textStyle="strong" as="h2" mb={2}>
          {current ? "Earlier deliveries" : "Deliveries"}
        </Text>
      )}
      {listed.filter((one) => one !== current).map(card)}
    </Box>
  );
}

/** Files that no line uses and that are not archived. */
function unusedFiles(job: Job): Source[] {
  const used = new Set(job.steps.flatMap((step) => step.inputs));
  return job.sources.filter((one) => !one.archived && !used.has(one.ref));
}
