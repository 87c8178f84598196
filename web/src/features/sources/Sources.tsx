/** The list of sources: dense rows; a pair by name stands together and offers its merge in one click. */
import { Box, Button, Flex, IconButton, Input, Text } from "@chakra-ui/react";
import { useVirtualizer } from "@tanstack/react-virtual";
import { X } from "lucide-react";
import { type KeyboardEvent, type MouseEvent, type RefObject, useMemo, useRef } from "react";
import type { Job, Pair, Source } from "../../api/client";
import { count, depth, duration, kilohertz, layout } from "../../shared/format";
import { Empty, PaneTitle, PrimaryButton, QuietButton } from "../../shared/parts";
import { arrange, type Row, select } from "./rows";
import type { Upload } from "./uploads";

type Props = {
  job: Job;
  uploads: Upload[];
  selected: string[];
  filter: string;
  filterInput: RefObject<HTMLInputElement | null>;
  onFilter: (text: string) => void;
  onSelect: (refs: string[]) => void;
  onMerge: (pair: Pair) => void;
  onFiles: (files: File[]) => void;
  onDismiss: (upload: number) => void;
};

export function Sources(props: Props) {
  const { job, uploads, selected, filter, onSelect } = props;
  const chooser = useRef<HTMLInputElement>(null);
  const rows = useMemo(() => arrange(job.sources, job.pairs, filter), [job.sources, job.pairs, filter]);
  return (
    <Flex
      as="aside"
      aria-label="Sources"
      direction="column"
      w="296px"
      flexShrink={0}
      borderRightWidth={1}
      borderColor="line"
      minH={0}
    >
      <Box px={4} pt={3} pb={2}>
        <PaneTitle right={<QuietButton onClick={() => chooser.current?.click()}>Add files</QuietButton>}>
          Sources
        </PaneTitle>
        <input
          ref={chooser}
          type="file"
          multiple
          hidden
          data-testid="file-input"
          onChange={(event) => {
            props.onFiles([...(event.target.files ?? [])]);
            event.target.value = "";
          }}
        />
        <Input
          ref={props.filterInput}
          size="sm"
          value={filter}
          onChange={(event) => props.onFilter(event.target.value)}
          onKeyDown={(event) => event.key === "Escape" && event.currentTarget.blur()}
          placeholder={`Filter ${count(job.sources.length, "file")}`}
          aria-label="Filter the sources"
          bg="raised"
          borderColor="transparent"
        />
      </Box>
      {uploads.map((one) => (
        <UploadRow key={one.id} upload={one} onDismiss={() => props.onDismiss(one.id)} />
      ))}
      {job.sources.length === 0 && uploads.length === 0 ? (
        <Empty title="Drop files anywhere">
          <Text mb={3}>
            Two mono files become a stereo one, a stereo file becomes two. The originals are never changed.
          </Text>
          <PrimaryButton onClick={() => chooser.current?.click()}>Choose files</PrimaryButton>
        </Empty>
      ) : rows.length === 0 && job.sources.length > 0 ? (
        <Empty title="No file matches">No name holds “{filter}”.</Empty>
      ) : (
        <List rows={rows} selected={selected} onSelect={onSelect} onMerge={props.onMerge} />
      )}
    </Flex>
  );
}

function List(props: {
  rows: Row[];
  selected: string[];
  onSelect: (refs: string[]) => void;
  onMerge: (pair: Pair) => void;
}) {
  const { rows, selected, onSelect, onMerge } = props;
  const scroller = useRef<HTMLDivElement>(null);
  const anchor = useRef(0);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => 48,
    overscan: 8,
  });
  const choose = (at: number, event: { ctrlKey: boolean; metaKey: boolean; shiftKey: boolean }) => {
    onSelect(select(rows, selected, anchor.current, at, event));
    if (!event.shiftKey) anchor.current = at;
    virtual.scrollToIndex(at);
  };
  const keys = (event: KeyboardEvent) => {
    const move = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (event.key === "a" && (event.ctrlKey || event.metaKey)) onSelect(rows.map((row) => row.source.ref));
    else if (move) {
      const last = rows.findIndex((row) => row.source.ref === selected.at(-1));
      choose(Math.max(0, Math.min(rows.length - 1, last + move)), event);
    } else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <Box
      ref={scroller}
      flex={1}
      overflowY="auto"
      minH={0}
      role="listbox"
      aria-label="Files"
      aria-multiselectable
      tabIndex={0}
      onKeyDown={keys}
    >
      <Box position="relative" h={`${virtual.getTotalSize()}px`}>
        {virtual.getVirtualItems().map((item) => {
          const row = rows[item.index];
          if (!row) return null;
          return (
            <SourceRow
              key={row.source.id}
              row={row}
              top={item.start}
              height={item.size}
              selected={selected.includes(row.source.ref)}
              onClick={(event) => choose(item.index, event)}
              onMerge={onMerge}
            />
          );
        })}
      </Box>
    </Box>
  );
}

function SourceRow(props: {
  row: Row;
  top: number;
  height: number;
  selected: boolean;
  onClick: (event: MouseEvent) => void;
  onMerge: (pair: Pair) => void;
}) {
  const { row, top, height, selected, onClick, onMerge } = props;
  const { source, pair, place } = row;
  return (
    <Flex
      role="option"
      aria-selected={selected}
      position="absolute"
      top={`${top}px`}
      h={`${height}px`}
      insetX={0}
      px={4}
      gap={3}
      align="center"
      cursor="default"
      bg={selected ? "raised.high" : "transparent"}
      _hover={{ bg: selected ? "raised.high" : "raised" }}
      onClick={onClick}
      title={source.file}
    >
      {place && (
        <Box
          position="absolute"
          left={1.5}
          top={place === "first" ? 2 : 0}
          bottom={place === "last" ? 2 : 0}
          w={1.5}
          borderLeftWidth={2}
          borderTopWidth={place === "first" ? 2 : 0}
          borderBottomWidth={place === "last" ? 2 : 0}
          borderColor="line"
        />
      )}
      <Glyph source={source} pair={pair} />
      <Box minW={0} flex={1}>
        <Text truncate fontWeight={600}>
          {source.name}
        </Text>
        <Text truncate fontSize="xs" color="fg.quiet">
          {layout(source.channels)} · {kilohertz(source.rate)} · {depth(source.depth)} ·{" "}
          {duration(source.frames, source.rate)}
        </Text>
      </Box>
      {pair && place === "first" && !pair.merged && (
        <Button
          size="2xs"
          variant="outline"
          borderColor="line"
          onClick={(event) => {
            event.stopPropagation();
            onMerge(pair);
          }}
          title={`${row.source.name} goes left; both become ${pair.name}`}
        >
          merge
        </Button>
      )}
    </Flex>
  );
}

/** Where the channels stand: one line for each, by its side. */
function Glyph({ source, pair }: { source: Source; pair: Pair | null }) {
  const isLeft = pair?.left === source.ref;
  const lines =
    source.channels === 1
      ? pair
        ? [{ x: isLeft ? 3 : 21, color: isLeft ? "left" : "right" }]
        : [{ x: 12, color: "mid" }]
      : [
          { x: 3, color: "left" },
          { x: 21, color: "right" },
        ];
  return (
    <svg width={24} height={20} viewBox="0 0 24 20" aria-hidden="true" style={{ flexShrink: 0 }}>
      {lines.map(({ x, color }) => (
        <line
          key={x}
          x1={12}
          y1={17}
          x2={x}
          y2={x === 12 ? 3 : 6}
          strokeWidth={2.5}
          strokeLinecap="round"
          stroke={`var(--chakra-colors-${color})`}
        />
      ))}
      {source.channels > 2 && (
        <text x={12} y={8} fontSize={8} textAnchor="middle" fill="var(--chakra-colors-fg)">
          {source.channels}
        </text>
      )}
    </svg>
  );
}

function UploadRow({ upload, onDismiss }: { upload: Upload; onDismiss: () => void }) {
  const { file, share, problem } = upload;
  return (
    <Flex
      px={4}
      py={2}
      gap={2}
      align="start"
      borderTopWidth={1}
      borderColor="line"
      role={problem ? "alert" : "status"}
    >
      <Box flex={1} minW={0}>
        <Text truncate={!problem} overflowWrap="anywhere" fontSize="xs" color={problem ? "trouble" : "fg"}>
          {problem ? problem.message : file.name}
        </Text>
        {problem ? (
          <Text fontSize="xs" color="fg.quiet">
            {problem.help}
          </Text>
        ) : (
          <Box h={1} mt={1.5} bg="raised.high" borderRadius="full" overflow="hidden">
            <Box h="full" bg="right" w={`${Math.round(share * 100)}%`} />
          </Box>
        )}
      </Box>
      <IconButton
        size="2xs"
        variant="ghost"
        aria-label={problem ? "Close" : `Stop ${file.name}`}
        onClick={onDismiss}
      >
        <X />
      </IconButton>
    </Flex>
  );
}
