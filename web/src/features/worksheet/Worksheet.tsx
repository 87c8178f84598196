/** The worksheet: lines that read like sentences. What goes in → what is done → what comes out. */
import { Box, Flex, Text, VisuallyHidden } from "@chakra-ui/react";
import { Check, Download, TriangleAlert } from "lucide-react";
import { Fragment, type ReactNode } from "react";
import type { Clip, Job, Step } from "../../api/client";
import { Chip } from "../../shared/chips";
import { dragsClip } from "../../shared/clipDrag";
import { count, dateTime } from "../../shared/format";
import { PaneTitle } from "../../shared/parts";
import { RowList } from "../../shared/RowList";
import { InputChip } from "./InputChip";

/** The height of a line in pixels. */
const LINE = 40;
const MOST_INPUTS = 3;

type Props = {
  job: Job;
  /** The line that is shown, and all that are selected. */
  current: string | null;
  selected: readonly string[];
  /** A line that is only tried: the answer to a question. */
  preview: string | null;
  onSelect: (step: string, held?: Held) => void;
  /** Another clip for one input of a line. */
  onInput: (step: Step, input: number, ref: string) => void;
  /** Deliver a line alone, to be saved by the browser. */
  onDownload: (step: string) => void;
  /** How much of the height it may take, in per cent. */
  share: number;
  /** What stands above the lines. */
  top?: ReactNode;
  children: ReactNode;
};

type Held = { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean };

export function Worksheet(props: Props) {
  const { job, current, selected, preview, onSelect, onInput, onDownload, share, top, children } = props;
  const names = clipNames(job);
  const missing = missingInputs(job);
  const { steps } = job;
  return (
    <Flex
      as="section"
      aria-label="Worksheet"
      direction="column"
      px={4}
      pt={3}
      pb={2}
      maxH={`${share}%`}
      flexShrink={0}
    >
      <PaneTitle right={top}>Worksheet</PaneTitle>
      {job.problem && (
        <Text layerStyle="danger" role="alert" mb={2}>
          This worksheet can’t be shown: {job.problem}. Undo, or restore an earlier version from History; your
          files are all there.
        </Text>
      )}
      {job.steps.length === 0 && (
        <Text layerStyle="quiet" py={2}>
          No turns yet. Select a file and add one, or click a suggestion beside a file.
        </Text>
      )}
      <Flex direction="column" minH={0} h={`${LINE * steps.length}px`} flexShrink={1}>
        <RowList
          label="Turns"
          role="listbox"
          rows={steps}
          several
          at={steps.findIndex((step) => step.id === current)}
          keyOf={(step) => step.id}
          heightOf={() => LINE}
          textOf={(step) => step.outputs[0]?.name ?? ""}
          onMove={(row, event) => {
            const next = steps[row];
            if (next) onSelect(next.id, event);
          }}
        >
          {(step, n, id, { top }) => (
            <Line
              id={id}
              number={n + 1}
              of={steps.length}
              top={top}
              step={step}
              names={names}
              missing={missing}
              selected={selected.includes(step.id)}
              current={step.id === current}
              preview={step.id === preview}
              onSelect={onSelect}
              onInput={onInput}
              onDownload={onDownload}
            />
          )}
        </RowList>
      </Flex>
      {children}
    </Flex>
  );
}

/**
 * Names of all clips by reference; what is missing has the name it had, what a waiting line would make its number, and
 * what a line doesn't make any more its number there.
 */
export function clipNames(job: Job): Map<string, string> {
  const clips = [...job.sources, ...job.steps.flatMap((step) => step.outputs)];
  const names = new Map(clips.map((clip) => [clip.ref, clip.name]));
  const lines = new Map(
    job.steps.map((step, n) => [step.id, { number: n + 1, works: step.waits_for === null }]),
  );
  for (const ref of job.steps.flatMap((step) => step.inputs)) {
    if (names.has(ref)) continue;
    const [kind, key = "", output] = ref.split(":");
    const line = lines.get(key);
    if (kind === "step")
      names.set(
        ref,
        line?.works ? `result ${Number(output) + 1} of line ${line.number}` : `line ${line?.number}`,
      );
    else names.set(ref, kind === "lost" ? ref.slice("lost:".length) : "a deleted file");
  }
  return names;
}

/** Inputs of lines that are not there; what a waiting line would make is not missing by itself. */
function missingInputs(job: Job): Set<string> {
  const clips = [...job.sources, ...job.steps.flatMap((step) => step.outputs)];
  const there = new Set(clips.map((clip) => clip.ref));
  const waiting = new Set(job.steps.filter((step) => step.waits_for !== null).map((step) => step.id));
  const refs = job.steps.flatMap((step) => step.inputs);
  return new Set(refs.filter((ref) => !there.has(ref) && !waiting.has(ref.split(":")[1] ?? "")));
}

/** How long a name is that all results begin with; 0 where they don't, or one adds nothing to it. */
const commonStart = (name: string, clips: Clip[]) =>
  name && clips.every((clip) => clip.name.startsWith(name) && clip.name.length > name.length)
    ? name.length
    : 0;

type LineProps = {
  id: string;
  number: number;
  of: number;
  top: number;
  step: Step;
  names: Map<string, string>;
  missing: Set<string>;
  selected: boolean;
  current: boolean;
  preview: boolean;
  /** The same for every line, so that only lines that change are drawn again. */
  onSelect: (step: string, held?: Held) => void;
  onInput: (step: Step, input: number, ref: string) => void;
  onDownload: (step: string) => void;
};

function Line({
  id,
  number,
  of,
  top,
  step,
  names,
  missing,
  selected,
  current,
  preview,
  onSelect,
  onInput,
  onDownload,
}: LineProps) {
  // Names need room to be told apart: of many inputs the first stands for all, and of many results the first two.
  const inputs = step.inputs.slice(0, step.inputs.length > MOST_INPUTS ? 1 : MOST_INPUTS);
  const shown = step.outputs.length > 4 ? 2 : 4;
  // Results of one file are told apart by what was added to its name.
  const alike =
    step.outputs.length > 1 ? commonStart(names.get(step.inputs[0] ?? "") ?? "", step.outputs) : 0;
  return (
    <Flex
      id={id}
      role="option"
      aria-selected={selected}
      aria-posinset={number}
      aria-setsize={of}
      align="center"
      gap={3}
      position="absolute"
      style={{ top, height: LINE }}
      insetX={0}
      px={2}
      layerStyle="pick"
      cursor="default"
      data-current={current || undefined}
      data-preview={preview || undefined}
      onClick={preview ? undefined : (event) => onSelect(step.id, event)}
    >
      <Text layerStyle="note" w={6} flexShrink={0}>
        {preview ? "" : number}
      </Text>
      <Flex gap={2} align="center" minW={0} flex="1 1 auto">
        {inputs.map((ref, n) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: an input is known by its place.
          <Fragment key={n}>
            {n > 0 && <Text layerStyle="quiet">+</Text>}
            <InputChip
              name={names.get(ref) ?? ""}
              missing={missing.has(ref)}
              onDrop={(other) => onInput(step, n, other)}
            />
          </Fragment>
        ))}
        {step.inputs.length > inputs.length && (
          <Text
            layerStyle="quiet"
            whiteSpace="nowrap"
            title={step.inputs.map((ref) => names.get(ref)).join(" + ")}
          >
            + {step.inputs.length - inputs.length}
          </Text>
        )}
        <Text textStyle="strong" px={1} flexShrink={0} layerStyle={step.bypassed ? "quiet" : "plain"}>
          {step.verb}
        </Text>
        <Text layerStyle="quiet">→</Text>
        {step.outputs.slice(0, shown).map((clip) => (
          <Box as="span" key={clip.ref} display="inline-flex" minW={0} {...dragsClip(clip.ref)}>
            <Chip name={clip.name.slice(alike)} title={clip.name} />
          </Box>
        ))}
        {step.outputs.length > shown && (
          <Text layerStyle="quiet" whiteSpace="nowrap">
            and {step.outputs.length - shown} more
          </Text>
        )}
      </Flex>
      {preview ? <Text layerStyle="quiet">Preview</Text> : <LineStatus step={step} />}
      {!preview && step.outputs.length > 0 && (
        // For the mouse; by keys it is in the menu of the line.
        <Box
          layerStyle="hoverIcon"
          aria-hidden
          data-testid="download"
          title="Download: deliver this line alone"
          p={1}
          flexShrink={0}
          onClick={(event) => {
            event.stopPropagation();
            onDownload(step.id);
          }}
        >
          <Download size={14} />
        </Box>
      )}
    </Flex>
  );
}

/** How a line stands, in a word; the whole sentence on hover and for screen readers. */
function LineStatus({ step }: { step: Step }) {
  const { findings, waits_for } = step;
  if (waits_for !== null)
    return (
      <Text layerStyle="warning" flexShrink={0}>
        needs {waits_for}
      </Text>
    );
  const { word, sentence, color, proved } = describeStanding(step);
  return (
    <Flex textStyle="small" align="center" gap={2} flexShrink={0} color={color} whiteSpace="nowrap">
      {findings.length > 0 && (
        <Flex
          layerStyle="warning"
          align="center"
          gap={1}
          title={findings.map((one) => one.message).join("\n")}
        >
          <TriangleAlert size={14} aria-hidden /> {count(findings.length, "warning")}
        </Flex>
      )}
      <Flex align="center" gap={1} title={sentence}>
        <span aria-hidden>{word}</span>
        {proved && <Check size={14} aria-hidden />}
        <VisuallyHidden>{sentence}</VisuallyHidden>
      </Flex>
    </Flex>
  );
}

/** What is known: proved on written files, or what the turn claims until then. */
function describeStanding({ proof, delivered, exact }: Step) {
  if (delivered?.changed)
    return {
      word: "changed",
      sentence: `Changed since delivery ${dateTime(delivered.at)}: its samples are no longer the same`,
      color: "warning",
    };
  if (proof)
    return {
      word: "delivered",
      sentence: proof.statement,
      color: proof.exact ? "ok" : "fg.quiet",
      proved: true,
    };
  return exact
    ? { word: "exact", sentence: "Bit-exact; not delivered yet", color: "fg.quiet" }
    : { word: "rounded", sentence: "Not bit-exact; not delivered yet", color: "fg.quiet" };
}
