/** The files that one belongs to by its name: merged, swapped, or unpaired by hand. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { ArrowLeftRight, Unlink } from "lucide-react";
import type { Group, Job } from "../../api/client";
import { kilohertz, ratesOf } from "../../shared/format";
import { Name } from "../../shared/Name";
import { QuietButton, SecondaryButton } from "../../shared/parts";
import type { FileActions } from "./actions";
import { groupStep } from "./rows";

/** The members the other way round; those of mid and side stay as their names say, and are turned by a flag. */
const exchanged = (group: Group) =>
  group.kind === "mid-side" && group.by_hand ? group.members : [...group.members].reverse();

const PAIRS = { "stereo-pair": "Pair", "mid-side": "M/S pair", layout: "Multichannel set" } as const;

type Props = { job: Job; group: Group; actions: FileActions };

export function InGroup({ job, group, actions }: Props) {
  const pair = (members: string[], together: boolean) => actions.do({ kind: "pair", members, together });
  const name = (ref: string) => job.sources.find((source) => source.ref === ref)?.name ?? "";
  const places =
    group.kind === "layout" ? group.speakers : group.kind === "stereo-pair" ? ["L", "R"] : ["M", "S"];
  const differ = !group.done && group.findings.some(({ code }) => code === "rate-differs");
  const rates = ratesOf(job.sources.filter((source) => group.members.includes(source.ref)));
  return (
    <Box layerStyle="panel" p={3} data-testid="group">
      <Text textStyle="strong" mb={1}>
        {PAIRS[group.kind]}: {group.name}
      </Text>
      {(group.by_hand && group.kind === "mid-side" ? [...group.members].reverse() : group.members).map(
        (ref, n) => (
          <Flex key={ref} gap={2}>
            <Text
              textStyle="strong"
              w={8}
              color={places[n] === "L" ? "left" : places[n] === "R" ? "right" : "fg.quiet"}
            >
              {places[n]}
            </Text>
            <Name>{name(ref)}</Name>
          </Flex>
        ),
      )}
      {group.doubt && (
        <Text layerStyle="danger" mt={2} data-testid="doubt">
          {group.doubt}
        </Text>
      )}
      {group.findings.map((finding) => (
        <Text layerStyle="danger" key={finding.code} mt={2} data-testid={`finding-${finding.code}`}>
          {finding.message}
        </Text>
      ))}
      <Flex mt={2} gap={1} wrap="wrap">
        {!group.done && !group.refused && (
          <SecondaryButton onClick={() => void actions.add([groupStep(group)])}>
            {group.label}
          </SecondaryButton>
        )}
        {differ &&
          rates.map((rate) => (
            <SecondaryButton key={rate} onClick={() => void actions.add([{ ...groupStep(group), rate }])}>
              {group.label} at {kilohertz(rate)}
            </SecondaryButton>
          ))}
        {group.members.length === 2 && (
          <QuietButton onClick={() => pair(exchanged(group), true)}>
            <ArrowLeftRight size={14} /> swap {group.kind === "mid-side" ? "M/S" : "L/R"}
          </QuietButton>
        )}
        <QuietButton onClick={() => pair(group.members, false)}>
          <Unlink size={14} /> unpair
        </QuietButton>
      </Flex>
    </Box>
  );
}
