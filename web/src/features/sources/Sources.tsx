/** The list of sources: dense rows for five files or five hundred, what they have in common, and filtering by it. */
import { Box, Flex, Input, Text } from "@chakra-ui/react";
import { type KeyboardEvent, useMemo, useRef } from "react";
import type { Job, NewStep } from "../../api/client";
import { Select } from "../../shared/fields";
import { count } from "../../shared/format";
import { Empty, PaneTitle, PrimaryButton, QuietButton } from "../../shared/parts";
import { RowList } from "../../shared/RowList";
import { Choosers } from "./Choosers";
import { Facets } from "./Facets";
import {
  arrange,
  type Facet,
  type FileFilter,
  facets,
  offered,
  type Row,
  SORTS,
  type Sort,
  select,
} from "./rows";
import { CHIPS_HEIGHT, chipsOf, ROW_HEIGHT, SourceRow } from "./SourceRow";
import { UploadRows } from "./UploadRows";
import type { DroppedFile } from "./uploadStore";
import type { Uploads } from "./uploads";

type Props = {
  job: Job;
  uploads: Uploads;
  selected: string[];
  filter: FileFilter;
  filterInput: (input: HTMLInputElement | null) => void;
  onFilter: (change: Partial<FileFilter>) => void;
  /** The focus may go back to where it came from. */
  onFilterDone: () => void;
  onSelect: (refs: string[]) => void;
  onSteps: (steps: NewStep[]) => void;
  onArchive: (refs: string[], archived: boolean) => void;
  /** Delete was pressed on the files. */
  onDelete: () => void;
  onFiles: (files: DroppedFile[]) => void;
};

export function Sources(props: Props) {
  const {
    job,
    uploads,
    selected,
    filter,
    filterInput,
    onFilter,
    onFilterDone,
    onSelect,
    onSteps,
    onArchive,
    onDelete,
    onFiles,
  } = props;
  const pane = useRef<HTMLDivElement>(null);
  const files = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);
  const { text, sort } = filter;
  const { sources, groups, unclear, steps } = job;
  const all = useMemo(() => facets({ sources, groups, unclear, steps }), [sources, groups, unclear, steps]);
  const facet: Facet | null = all.find((one) => one.id === filter.facet) ?? null;
  const rows = useMemo(
    () => arrange({ sources, groups, steps }, { filter: text, facet, sort }),
    [sources, groups, text, facet, sort, steps],
  );
  /** Down to what was found, or back to where one came from. */
  const leaveFilter = (event: KeyboardEvent<HTMLInputElement>) => {
    const [first] = rows;
    if (event.key === "Escape") {
      onFilter({ text: "" });
      onFilterDone();
    } else if (first && (event.key === "Enter" || event.key === "ArrowDown")) {
      event.preventDefault();
      onSelect([first.source.ref]);
      pane.current?.querySelector<HTMLElement>("[role=grid]")?.focus();
    }
  };
  const live = job.sources.filter((source) => !source.archived).length;
  return (
    <Flex
      ref={pane}
      as="aside"
      aria-label="Sources"
      direction="column"
      w={{ base: "full", lg: "264px", xl: "304px", "2xl": "400px" }}
      h={{ base: "24rem", lg: "auto" }}
      flexShrink={0}
      borderRightWidth={{ lg: 1 }}
      borderBottomWidth={{ base: 1, lg: 0 }}
      borderColor="line"
      minH={0}
    >
      <Box px={4} pt={3} pb={2}>
        <PaneTitle
          right={
            <Flex>
              <QuietButton onClick={() => files.current?.click()}>Add files</QuietButton>
              <QuietButton onClick={() => folder.current?.click()}>Add a folder</QuietButton>
            </Flex>
          }
        >
          Sources
        </PaneTitle>
        <Choosers files={files} folder={folder} onFiles={onFiles} />
        <Flex gap={2}>
          <Input
            ref={filterInput}
            size="sm"
            flex={1}
            value={text}
            onChange={(event) => onFilter({ text: event.target.value })}
            onKeyDown={leaveFilter}
            placeholder={`Filter ${count(live, "file")}`}
            aria-label="Filter the sources"
            bg="raised"
            borderColor="transparent"
          />
          <Select
            label="Sort the sources"
            value={sort}
            options={Object.entries(SORTS) as [Sort, string][]}
            onChange={(order) => onFilter({ sort: order })}
            size="sm"
            width="6.5rem"
          />
        </Flex>
        <Facets
          facets={all}
          chosen={facet}
          onChoose={(one) => {
            onFilter({ facet: one?.id ?? null });
            onSelect(one?.refs ?? []);
          }}
          onSteps={onSteps}
          onArchive={onArchive}
        />
      </Box>
      <UploadRows uploads={uploads} />
      {job.sources.length === 0 && uploads.all.length === 0 ? (
        <Empty title="Drop files or folders anywhere">
          <Text mb={3}>
            Each file is analysed as it arrives: format, problems, and which files belong together. The
            originals are never changed.
          </Text>
          <PrimaryButton onClick={() => files.current?.click()}>Choose files</PrimaryButton>
        </Empty>
      ) : rows.length === 0 && job.sources.length > 0 ? (
        <Empty title="No matching files">
          {text ? `Nothing named “${text}”${facet ? ` in “${facet.label}”` : ""}.` : "No files here."}
        </Empty>
      ) : (
        <List
          rows={rows}
          selected={selected}
          onSelect={onSelect}
          onStep={(step) => onSteps([step])}
          onDelete={onDelete}
        />
      )}
    </Flex>
  );
}

function List(props: {
  rows: Row[];
  selected: string[];
  onSelect: (refs: string[]) => void;
  onStep: (step: NewStep) => void;
  onDelete: () => void;
}) {
  "use no memo"; // what the rows do is looked up when it is done
  const { rows, selected, onSelect } = props;
  const anchor = useRef<string | null>(null);
  const chosen = useMemo(() => new Set(selected), [selected]);
  const choose = (at: number, event: { ctrlKey: boolean; metaKey: boolean; shiftKey: boolean }) => {
    onSelect(select(rows, selected, anchor.current, at, event));
    if (!event.shiftKey) anchor.current = rows[at]?.source.ref ?? null;
  };
  // Rows are drawn again only when they change.
  const act = useRef({ choose, step: props.onStep });
  act.current = { choose, step: props.onStep };
  const current = rows.findIndex((row) => row.source.ref === selected.at(-1));
  return (
    <RowList
      label="Files"
      role="grid"
      several
      rows={rows}
      at={current}
      keyOf={(row) => row.source.ref}
      heightOf={(row) =>
        ROW_HEIGHT + CHIPS_HEIGHT * (Number(row.source.problem !== null) + Number(chipsOf(row).length > 0))
      }
      textOf={(row) => row.source.name}
      onMove={choose}
      onKey={(event) => {
        if (event.key === "a" && (event.ctrlKey || event.metaKey))
          onSelect(rows.map((row) => row.source.ref));
        else if (event.key === "Enter") {
          const row = rows[current];
          const step = row && offered(row);
          if (step) props.onStep(step);
        } else if (event.key === "Delete") props.onDelete();
        else return false;
        return true;
      }}
    >
      {(row, number, id, place) => (
        <SourceRow
          id={id}
          number={number + 1}
          row={row}
          {...place}
          selected={chosen.has(row.source.ref)}
          onClick={(event) => act.current.choose(number, event)}
          onStep={(step) => act.current.step(step)}
        />
      )}
    </RowList>
  );
}
