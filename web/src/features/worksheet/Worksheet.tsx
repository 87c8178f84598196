/** The worksheet: lines that read like sentences. What goes in → what is done → what comes out. */
import { Flex, Text } from "@chakra-ui/react";
import { Check, TriangleAlert } from "lucide-react";
import { Fragment, type ReactNode } from "react";
import type { Clip, Job, Step } from "../../api/client";
import { Chip } from "../../shared/chips";
import { decibels } from "../../shared/format";
import { PaneTitle } from "../../shared/parts";
import { RowList } from "../../shared/RowList";

/** The height of a line in pixels. */
const LINE = 40;

type Props = {
  job: Job;
  selected: string | null;
  onSelect: (step: string) => void;
  onRemove: (step: string) => void;
  /** How much of the height it may take, in per cent. */
  share: number;
  children: ReactNode;
};

export function Worksheet({ job, selected, onSelect, onRemove, share, children }: Props) {
  const names = clipNames(job);
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
      <PaneTitle>Worksheet</PaneTitle>
      {job.problem && (
        <Text color="trouble" role="alert" mb={2}>
          This worksheet can’t be shown: {job.problem}. Undo, or choose an earlier revision in the history;
          your files are all there.
        </Text>
      )}
      {job.steps.length === 0 && (
        <Text color="fg.quiet" py={2}>
          No turns yet. Select a file and add one, or click a suggestion beside a file.
        </Text>
      )}
      <Flex direction="column" minH={0} h={`${LINE * steps.length}px`} flexShrink={1}>
        <RowList
          label="Turns"
          role="listbox"
          rows={steps}
          at={steps.findIndex((step) => step.id === selected)}
          keyOf={(step) => step.id}
          heightOf={() => LINE}
          textOf={(step) => step.outputs[0]?.name ?? ""}
          onMove={(row) => {
            const next = steps[row];
            if (next) onSelect(next.id);
          }}
          onKey={(event) => {
            if ((event.key !== "Delete" && event.key !== "Backspace") || !selected) return false;
            onRemove(selected);
            return true;
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
              selected={step.id === selected}
              onSelect={onSelect}
            />
          )}
        </RowList>
      </Flex>
      {children}
    </Flex>
  );
}

/** Names of all clips by reference. */
export function clipNames(job: Job): Map<string, string> {
  const clips = [...job.sources, ...job.steps.flatMap((step) => step.outputs)];
  return new Map(clips.map((clip) => [clip.ref, clip.name]));
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
  selected: boolean;
  /** The same for every line, so that only lines that change are drawn again. */
  onSelect: (step: string) => void;
};

function Line({ id, number, of, top, step, names, selected, onSelect }: LineProps) {
  // Names need room to be told apart: of many results the first two stand for all.
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
      borderRadius="md"
      cursor="default"
      bg={selected ? "raised" : "transparent"}
      _hover={{ bg: "raised" }}
      onClick={() => onSelect(step.id)}
    >
      <Text color="fg.quiet" fontSize="xs" w={6} flexShrink={0}>
        {number}
      </Text>
      <Flex gap={1.5} align="center" minW={0} flex={1}>
        {step.inputs.map((ref, n) => (
          <Fragment key={ref}>
            {n > 0 && <Text color="fg.quiet">+</Text>}
            <Chip name={names.get(ref) ?? ""} title={names.get(ref) ?? ""} />
          </Fragment>
        ))}
        <Text fontWeight={700} px={1} flexShrink={0}>
          {step.verb}
        </Text>
        <Text color="fg.quiet">→</Text>
        {step.outputs.slice(0, shown).map((clip) => (
          <Chip key={clip.ref} name={clip.name.slice(alike)} title={clip.name} />
        ))}
        {step.outputs.length > shown && (
          <Text color="fg.quiet" whiteSpace="nowrap">
            and {step.outputs.length - shown} more
          </Text>
        )}
      </Flex>
      <Standing step={step} />
    </Flex>
  );
}

/** What is known: proved on written files, or what the turn claims until then. */
function Standing({ step }: { step: Step }) {
  const { proof, findings, exact } = step;
  return (
    <Flex color="fg.quiet" align="center" gap={2} flexShrink={0}>
      {findings.length > 0 && (
        <Flex color="trouble" align="center" gap={1} title={findings.map((one) => one.message).join("\n")}>
          <TriangleAlert size={14} /> warnings ({findings.length})
        </Flex>
      )}
      {proof?.exact ? (
        <Flex color="proved" align="center" gap={1} title={proof.statement}>
          bit-identical <Check size={14} />
        </Flex>
      ) : proof ? (
        <Text title={proof.statement}>null residue {decibels(proof.residual_dbfs, "dBFS")}</Text>
      ) : (
        `${exact ? "bit-exact, " : ""}not delivered yet`
      )}
    </Flex>
  );
}
