/** The list of sources: dense rows for five files or five hundred, what they have in common, and filtering by it. */
import { Box, Flex, Input } from "@chakra-ui/react";
import { type KeyboardEvent, useMemo, useRef } from "react";
import type { Job } from "../../api/client";
import { Select } from "../../shared/fields";
import { count } from "../../shared/format";
import { Empty, PaneTitle, QuietButton } from "../../shared/parts";
import type { FileActions } from "./actions";
import { Choosers } from "./Choosers";
import { Facets } from "./Facets";
import { FileList } from "./FileList";
import { arrange, type Facet, type FileFilter, facets, SORTS, type Sort } from "./rows";
import { UploadRows } from "./UploadRows";
import type { Uploads } from "./uploads";

type Props = {
  job: Job;
  uploads: Uploads;
  selected: string[];
  filter: FileFilter;
  filterInput: (input: HTMLInputElement | null) => void;
  /** The focus may go back to where it came from. */
  onFilterDone: () => void;
  actions: FileActions;
};

export function Sources({ job, uploads, selected, filter, filterInput, onFilterDone, actions }: Props) {
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
      actions.filter({ text: "" });
      onFilterDone();
    } else if (first && (event.key === "Enter" || event.key === "ArrowDown")) {
      event.preventDefault();
      actions.chooseFiles([first.source.ref]);
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
      layerStyle="sources"
      minH={0}
    >
      <Box px={4} pt={3} pb={2}>
        <PaneTitle
          right={
            <Flex>
              <QuietButton onClick={() => files.current?.click()}>Add files</QuietButton>
              <QuietButton onClick={() => folder.current?.click()}>Add folder</QuietButton>
            </Flex>
          }
        >
          Sources
        </PaneTitle>
        <Choosers files={files} folder={folder} onFiles={uploads.add} />
        <Flex gap={2}>
          <Input
            ref={filterInput}
            size="sm"
            flex={1}
            value={text}
            onChange={(event) => actions.filter({ text: event.target.value })}
            onKeyDown={leaveFilter}
            placeholder={`Filter ${count(live, "file")}`}
            aria-label="Filter the sources"
          />
          <Select
            label="Sort the sources"
            value={sort}
            options={Object.entries(SORTS) as [Sort, string][]}
            onChange={(order) => actions.filter({ sort: order })}
            size="sm"
            width="6.5rem"
          />
        </Flex>
        <Facets
          facets={all}
          chosen={facet}
          onChoose={(one) => {
            actions.filter({ facet: one?.id ?? null });
            actions.chooseFiles(one?.refs ?? []);
          }}
          actions={actions}
        />
      </Box>
      <UploadRows uploads={uploads} />
      {rows.length === 0 && job.sources.length > 0 ? (
        <Empty title="No matching files">
          {text ? `Nothing named “${text}”${facet ? ` in “${facet.label}”` : ""}.` : "No files here."}
        </Empty>
      ) : (
        <FileList rows={rows} selected={selected} actions={actions} />
      )}
    </Flex>
  );
}
