/** The list of sources: dense rows for five files or five hundred, what they have in common, and filtering by it. */
import { Box, Flex, Input, Text } from "@chakra-ui/react";
import { type RefObject, useMemo, useRef, useState } from "react";
import type { Job, NewStep } from "../../api/client";
import { Select } from "../../shared/fields";
import { count } from "../../shared/format";
import { Empty, PaneTitle, PrimaryButton, QuietButton } from "../../shared/parts";
import { RowList } from "../../shared/RowList";
import { Choosers } from "./Choosers";
import { Facets } from "./Facets";
import { arrange, type Facet, facets, offered, type Row, SORTS, type Sort, select } from "./rows";
import { CHIPS_HEIGHT, chipsOf, ROW_HEIGHT, SourceRow } from "./SourceRow";
import { UploadRows } from "./UploadRows";
import type { DroppedFile } from "./uploadStore";
import type { Uploads } from "./uploads";

type Props = {
  job: Job;
  uploads: Uploads;
  selected: string[];
  filter: string;
  filterInput: RefObject<HTMLInputElement | null>;
  onFilter: (text: string) => void;
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
    onSelect,
    onSteps,
    onArchive,
    onDelete,
    onFiles,
  } = props;
  const files = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);
  const [facetId, setFacetId] = useState<string | null>(null);
  const [sort, setSort] = useState<Sort>("came");
  const { sources, groups, unclear, steps } = job;
  const all = useMemo(() => facets({ sources, groups, unclear, steps }), [sources, groups, unclear, steps]);
  const facet: Facet | null = all.find((one) => one.id === facetId) ?? null;
  const rows = useMemo(
    () => arrange({ sources, groups, steps }, { filter, facet, sort }),
    [sources, groups, filter, facet, sort, steps],
  );
  const live = job.sources.filter((source) => !source.archived).length;
  return (
    <Flex
      as="aside"
      aria-label="Sources"
      direction="column"
      w={{ base: "304px", "2xl": "400px" }}
      flexShrink={0}
      borderRightWidth={1}
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
            value={filter}
            onChange={(event) => onFilter(event.target.value)}
            onKeyDown={(event) => event.key === "Escape" && event.currentTarget.blur()}
            placeholder={`Filter ${count(live, "file")}`}
            aria-label="Filter the sources"
            bg="raised"
            borderColor="transparent"
          />
          <Select
            label="Sort the sources"
            value={sort}
            options={Object.entries(SORTS) as [Sort, string][]}
            onChange={setSort}
            size="sm"
            width="6.5rem"
          />
        </Flex>
        <Facets
          facets={all}
          chosen={facet}
          onChoose={(one) => {
            setFacetId(one?.id ?? null);
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
          {filter ? `Nothing named “${filter}”${facet ? ` in “${facet.label}”` : ""}.` : "No files here."}
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
