/** The selected turn: what it does, its few settings, what was noticed, and its proof. */
import { Box, Flex, Input, Text } from "@chakra-ui/react";
import { ArrowLeftRight } from "lucide-react";
import { type ReactNode, useEffect, useState } from "react";
import type { Finding, Proof, Step, Turn } from "../../api/client";
import { depth } from "../../shared/format";
import { PaneTitle, QuietButton, Select } from "../../shared/parts";
import { Plane } from "./Plane";

type Change = { turn?: Turn; inputs?: string[]; names?: string[] };
type Props = {
  step: Step;
  names: Map<string, string>;
  onChange: (change: Change) => void;
  onRemove: () => void;
};

export function TurnPanel({ step, names, onChange, onRemove }: Props) {
  return (
    <Flex
      as="aside"
      aria-label="Settings"
      direction="column"
      gap={3}
      w="300px"
      flexShrink={0}
      borderLeftWidth={1}
      borderColor="line"
      p={4}
      pt={3}
      overflowY="auto"
    >
      <PaneTitle right={<QuietButton onClick={onRemove}>Take out</QuietButton>}>
        {titles[step.turn.kind]}
      </PaneTitle>
      <Plane step={step} />
      <Text>{step.sentence}</Text>
      <Settings step={step} names={names} onChange={onChange} />
      <ResultNames step={step} onChange={onChange} />
      {step.findings.map((finding) => (
        <FindingNote key={finding.code} finding={finding} />
      ))}
      <ProofCard step={step} />
    </Flex>
  );
}

const titles: Record<Turn["kind"], string> = { merge: "Merge into stereo", split: "Split into its channels" };

function Settings({ step, names, onChange }: Omit<Props, "onRemove">) {
  const { turn } = step;
  switch (turn.kind) {
    case "merge":
      return <MergeSettings step={step} turn={turn} names={names} onChange={onChange} />;
    case "split":
      return <SplitSettings step={step} turn={turn} onChange={onChange} />;
    default:
      return turn satisfies never;
  }
}

type Of<K extends Turn["kind"]> = Extract<Turn, { kind: K }>;

function MergeSettings(props: {
  step: Step;
  turn: Of<"merge">;
  names: Map<string, string>;
  onChange: (c: Change) => void;
}) {
  const { step, turn, names, onChange } = props;
  const sides = step.carries[0] ?? [];
  const name = (channel: number) => sides[channel]?.[0] ?? "";
  const exchange = () => {
    // The order is the user's from now on, whatever the names say.
    const inputs = [...step.inputs].sort(
      (a, b) => Number(names.get(a) === name(0)) - Number(names.get(b) === name(0)),
    );
    onChange({ turn: { ...turn, order: "given" }, inputs });
  };
  return (
    <>
      <Flex gap={2} align="center">
        <Box flex={1} minW={0}>
          <Side letter="L" color="left" name={name(0)} />
          <Side letter="R" color="right" name={name(1)} />
        </Box>
        <QuietButton onClick={exchange} aria-label="Exchange left and right" title="Exchange left and right">
          <ArrowLeftRight size={16} /> exchange
        </QuietButton>
      </Flex>
      <Field label="Line up by">
        <Select
          label="Line up by"
          value={turn.line_up}
          options={[
            ["recorded", "recorded start times"],
            ["file", "starts of the files"],
          ]}
          onChange={(line_up) => onChange({ turn: { ...turn, line_up } })}
        />
      </Field>
      <Field label="Different lengths">
        <Select
          label="Different lengths"
          value={turn.length}
          options={[
            ["pad", "add silence"],
            ["trim", "keep what both have"],
          ]}
          onChange={(length) => onChange({ turn: { ...turn, length } })}
        />
      </Field>
    </>
  );
}

function Side({ letter, color, name }: { letter: string; color: string; name: string }) {
  return (
    <Flex gap={2} align="baseline" data-testid={`side-${letter}`}>
      <Text color={color} fontWeight={700} w={3}>
        {letter}
      </Text>
      <Text truncate title={name}>
        {name}
      </Text>
    </Flex>
  );
}

function SplitSettings({
  step,
  turn,
  onChange,
}: {
  step: Step;
  turn: Of<"split">;
  onChange: (c: Change) => void;
}) {
  if (step.outputs.length !== 2) return null;
  const [left = "_L", right = "_R"] = turn.endings;
  return (
    <Field label="Name endings">
      <Flex gap={2}>
        <Committed
          label="Ending of left"
          value={left}
          onCommit={(text) => onChange({ turn: { ...turn, endings: [text, right] } })}
        />
        <Committed
          label="Ending of right"
          value={right}
          onCommit={(text) => onChange({ turn: { ...turn, endings: [left, text] } })}
        />
      </Flex>
    </Field>
  );
}

function ResultNames({ step, onChange }: { step: Step; onChange: (change: Change) => void }) {
  if (step.outputs.length > 2) return null;
  return (
    <Field label={step.outputs.length > 1 ? "Names of the results" : "Name of the result"}>
      {step.outputs.map((clip, n) => (
        <Committed
          key={clip.ref}
          label={`Name of result ${n + 1}`}
          value={clip.name}
          onCommit={(text) => onChange({ names: step.outputs.map((one, m) => (m === n ? text : one.name)) })}
        />
      ))}
    </Field>
  );
}

/** A text that counts when it is left or Enter is pressed, not at every letter; Escape takes it back. */
function Committed({
  label,
  value,
  onCommit,
}: {
  label: string;
  value: string;
  onCommit: (text: string) => void;
}) {
  const [text, setText] = useState(value);
  useEffect(() => setText(value), [value]);
  return (
    <Input
      size="xs"
      aria-label={label}
      value={text}
      maxLength={150}
      bg="raised"
      borderColor="line"
      onChange={(event) => setText(event.target.value)}
      onBlur={() => (text.trim() && text !== value ? onCommit(text) : setText(value))}
      onKeyDown={(event) => {
        if (event.key === "Enter") event.currentTarget.blur();
        if (event.key === "Escape") setText(value);
      }}
    />
  );
}

function Field({ label, children }: { label: string; children: ReactNode }) {
  return (
    <Flex direction="column" gap={1}>
      <Text fontSize="xs" color="fg.quiet">
        {label}
      </Text>
      {children}
    </Flex>
  );
}

function FindingNote({ finding }: { finding: Finding }) {
  return (
    <Box borderLeftWidth={3} borderColor="trouble" pl={3} data-testid={`finding-${finding.code}`}>
      <Text>{finding.message}</Text>
    </Box>
  );
}

/** Before a delivery, what the turn claims; after it, what was measured on the written files. */
function ProofCard({ step }: { step: Step }) {
  const proof: Proof | null = step.proof ?? null;
  const first = step.outputs[0];
  return (
    <Box mt="auto" bg="raised" borderRadius="md" p={3} data-testid="proof" aria-live="polite">
      {proof ? (
        <>
          <Text color={proof.exact ? "proved" : "fg"} fontWeight={700}>
            {proof.exact ? `Same samples, ${proof.bits} bits` : "Not the same samples"}
          </Text>
          <Text>{proof.statement}</Text>
          <Text color="fg.quiet" fontSize="xs" mt={1}>
            Measured on the written files.
          </Text>
        </>
      ) : (
        <>
          <Text fontWeight={700}>
            {step.exact ? `Exact${first ? `, ${depth(first.depth)}` : ""}` : "Computed"}
          </Text>
          <Text color="fg.quiet">
            {step.exact ? "No sample changes its value." : "Samples change."} The proof is measured on the
            files when they are delivered
            {step.comes_back ? ": what was written is taken back and compared with what went in" : ""}.
          </Text>
        </>
      )}
    </Box>
  );
}
