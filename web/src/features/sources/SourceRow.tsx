/** One row of the list: what a file is, and what is worth knowing about it, each with its turn one click away. */
import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { type MouseEvent, memo } from "react";
import type { FileFinding, Group, NewStep } from "../../api/client";
import { dragsClip } from "../../shared/clipDrag";
import { duration, kilohertz, layout, stored } from "../../shared/format";
import { Name } from "../../shared/Name";
import { keepsFocus } from "../../shared/parts";
import { toSentenceCase } from "../../shared/sentenceCase";
import { Glyph } from "./Glyph";
import { groupStep, isRemark, type Row, remedyStep } from "./rows";

export const ROW_HEIGHT = 48;
export const CHIPS_HEIGHT = 24;

/** What a row offers as chips: its file's findings, and on the first row of a group those of the group. */
export function chipsOf({
  source,
  group,
  place,
}: Row): { finding: FileFinding; step: NewStep | null; group: boolean }[] {
  const own = source.findings.map((finding) => ({
    finding,
    step: remedyStep(finding, [source.ref]),
    group: false,
  }));
  const shared =
    group && place === "first" && !group.done
      ? group.findings.map((finding) => ({ finding, step: null, group: true }))
      : [];
  return [...own, ...shared];
}

type Props = {
  id: string;
  /** Its number in the list, from 1. */
  number: number;
  row: Row;
  top: number;
  height: number;
  selected: boolean;
  /** The keys are at this row: Tab goes on to its chips. */
  current: boolean;
  onClick: (event: MouseEvent) => void;
  onStep: (step: NewStep) => void;
};

/** Rows are made anew at every change of the worksheet; most of them are the same ones. */
const sameRow = (a: Row, b: Row) =>
  a.source === b.source && a.group === b.group && a.place === b.place && a.line === b.line;

/** Drawn again only for another row, place or choice: its callbacks are looked up when they are called. */
export const SourceRow = memo(
  Drawn,
  (a, b) =>
    a.id === b.id &&
    sameRow(a.row, b.row) &&
    a.top === b.top &&
    a.height === b.height &&
    a.selected === b.selected &&
    a.current === b.current,
);

function Drawn({ id, number, row, top, height, selected, current, onClick, onStep }: Props) {
  const { source, group, place, line } = row;
  const chips = chipsOf(row);
  return (
    <Flex
      id={id}
      role="row"
      aria-selected={selected}
      aria-rowindex={number}
      position="absolute"
      style={{ top, height }}
      insetX={0}
      px={4}
      gap={2}
      align="start"
      pt={1}
      cursor="default"
      layerStyle="file"
      onClick={onClick}
      {...dragsClip(source.ref)}
      title={source.folder ? `${source.folder}/${source.file}` : source.file}
    >
      {place && <Bracket place={place} />}
      <Box pt={1} aria-hidden>
        <Glyph source={source} group={group} />
      </Box>
      <Box minW={0} flex={1} role="gridcell">
        <Flex align="center" gap={2}>
          <Box textStyle="strong" flex={1} minW={0}>
            <Name>{source.name}</Name>
          </Box>
          {line !== null && (
            <Text layerStyle="note" flexShrink={0}>
              line {line}
            </Text>
          )}
          {group && place === "first" && !group.done && !group.refused && (
            <ChipButton title={groupTitle(group)} current={current} onClick={() => onStep(groupStep(group))}>
              {group.doubt ? `${group.label}?` : group.label}
            </ChipButton>
          )}
        </Flex>
        <Text truncate layerStyle="note">
          {layout(source.channels)} · {kilohertz(source.rate)} · {stored(source)} ·{" "}
          {duration(source.frames, source.rate)}
          {!source.measured && !source.problem && " · analysing"}
        </Text>
        {source.problem && (
          <Text layerStyle="danger" textStyle="small" truncate title={source.problem}>
            {source.problem}
          </Text>
        )}
        {chips.length > 0 && (
          <Flex gap={2} overflow="hidden" h="20px" align="center">
            {chips.map(({ finding, step, group: ofGroup }) =>
              step && !source.archived && line === null ? (
                <ChipButton
                  key={finding.code}
                  title={finding.message}
                  grave
                  current={current}
                  onClick={() => onStep(step)}
                >
                  {finding.label} <b>→ {finding.remedy?.label}</b>
                </ChipButton>
              ) : (
                <Text
                  textStyle="small"
                  key={`${finding.code}${ofGroup}`}
                  as="span"
                  title={finding.message}
                  layerStyle={isRemark(finding) || (line !== null && step) ? "quiet" : "warning"}
                  flexShrink={0}
                  whiteSpace="nowrap"
                >
                  {line !== null && step ? "✓ " : ""}
                  {finding.label}
                </Text>
              ),
            )}
          </Flex>
        )}
      </Box>
    </Flex>
  );
}

const groupTitle = (group: Group) =>
  group.kind === "layout"
    ? `Merge ${group.speakers.join(" ")} into ${group.name}`
    : group.kind === "stereo-pair"
      ? `Merge the first (left) and the second (right) into ${group.name}`
      : `Decode the first (mid) and the second (side) into ${group.name}`;

const listOf = (chip: Element) => chip.closest<HTMLElement>("[role=grid]");

/** Its keys are its own while it has the focus; all others are the list's. */
function ChipButton(props: {
  title: string;
  grave?: boolean;
  current: boolean;
  onClick: () => void;
  children: React.ReactNode;
}) {
  return (
    <Button
      {...keepsFocus}
      size="2xs"
      h="20px"
      variant="outline"
      layerStyle="offer"
      data-grave={props.grave || undefined}
      textStyle="plain"
      flexShrink={0}
      maxW="full"
      tabIndex={props.current ? 0 : -1}
      title={props.title}
      onClick={(event) => {
        event.stopPropagation();
        // It may be gone when it has done its work: the keys stay with the list.
        if (document.activeElement === event.currentTarget) listOf(event.currentTarget)?.focus();
        props.onClick();
      }}
      onKeyDown={(event) => {
        if (["Enter", " "].includes(event.key)) event.stopPropagation();
        else if (/^(Arrow|Page|Home|End|Escape)/.test(event.key)) listOf(event.currentTarget)?.focus();
      }}
    >
      <Text as="span" truncate>
        {toSentenceCase(props.children)}
      </Text>
    </Button>
  );
}

function Bracket({ place }: { place: "first" | "middle" | "last" }) {
  return (
    <Box
      position="absolute"
      left={1.5}
      top={place === "first" ? 2 : 0}
      bottom={place === "last" ? 2 : 0}
      w={1.5}
      layerStyle="bracket"
      data-place={place}
    />
  );
}
