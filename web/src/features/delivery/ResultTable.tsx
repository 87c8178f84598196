/** Every result that can be delivered, and the file it would become. */
import { Box, Checkbox, Grid, Text } from "@chakra-ui/react";
import { useMemo } from "react";
import type { Clip, PlannedFile } from "../../api/client";
import { bytes, clock, depth as depthName, duration, layout } from "../../shared/format";
import { LongList } from "../../shared/LongList";

type Props = {
  results: Clip[];
  chosen: string[];
  /** What would be written; missing while that is worked out, and of what is not chosen. */
  planned: PlannedFile[];
  /** A size depends on what is in the file. */
  atMost: boolean;
  onToggle: (ref: string) => void;
};

const ROW = 38;
const COLUMNS = {
  base: "3.5rem minmax(0, 2fr) minmax(0, 2fr) minmax(0, 1fr) minmax(0, 1fr) minmax(0, 1fr)",
  lg: "3.5rem minmax(0, 1fr) minmax(0, 15rem) 5rem 6.5rem 6rem",
};

export function ResultTable({ results, chosen, planned, atMost, onToggle }: Props) {
  const ticked = useMemo(() => new Set(chosen), [chosen]);
  const files = useMemo(() => new Map(planned.map((file) => [file.ref, file])), [planned]);
  return (
    <Box role="table" aria-label="Results" aria-rowcount={results.length + 1} mb={12}>
      <Grid layerStyle="quiet" textStyle="strong" role="row" templateColumns={COLUMNS} gap={3} px={2} py={2}>
        {["Deliver", "File", "Format", "Length", "Start time", "Size"].map((title) => (
          <Cell key={title} header>
            {title}
          </Cell>
        ))}
      </Grid>
      <LongList rows={results} keyOf={({ ref }) => ref} estimate={ROW} maxH="26rem" role="rowgroup">
        {(clip, n) => (
          <ResultRow
            clip={clip}
            number={n + 2}
            chosen={ticked.has(clip.ref)}
            file={files.get(clip.ref) ?? null}
            atMost={atMost}
            onToggle={onToggle}
          />
        )}
      </LongList>
    </Box>
  );
}

function Cell({ header = false, ...cell }: React.ComponentProps<typeof Box> & { header?: boolean }) {
  return <Box role={header ? "columnheader" : "cell"} minW={0} {...cell} />;
}

type RowProps = {
  clip: Clip;
  /** Counted from the heading, which is 1. */
  number: number;
  chosen: boolean;
  file: PlannedFile | null;
  atMost: boolean;
  onToggle: (ref: string) => void;
};

function ResultRow({ clip, number, chosen, file, atMost, onToggle }: RowProps) {
  const impossible = file?.outside ?? file?.refused;
  const { frames, start_time } = file ?? clip;
  return (
    <Grid
      role="row"
      aria-rowindex={number}
      templateColumns={COLUMNS}
      gap={3}
      px={2}
      minH={`${ROW}px`}
      layerStyle="row"
      data-off={chosen ? undefined : ""}
    >
      <Cell>
        <Checkbox.Root checked={chosen} onCheckedChange={() => onToggle(clip.ref)}>
          <Checkbox.HiddenInput aria-label={`Deliver ${clip.name}`} />
          <Checkbox.Control />
        </Checkbox.Root>
      </Cell>
      <Cell textStyle="strong" overflowWrap="anywhere">
        {file?.file ?? clip.name}
      </Cell>
      <Cell>
        {layout(clip.channels)} · {clip.rate / 1000} kHz{file && ` · ${depthName(file.depth)}`}
        {file?.dithered && " · dithered"}
        {file?.over_db ? (
          <Text layerStyle="danger" as="span">
            {" "}
            · clips by {file.over_db.toFixed(1)} dB
          </Text>
        ) : null}
      </Cell>
      {impossible ? (
        <Cell layerStyle="danger" gridColumn="span 3">
          {impossible}
        </Cell>
      ) : (
        <>
          <Cell>{duration(frames, clip.rate)}</Cell>
          <Cell>{start_time === null ? "–" : clock(start_time / clip.rate)}</Cell>
          <Cell>{file && `${atMost ? "up to " : ""}${bytes(file.bytes)}`}</Cell>
        </>
      )}
    </Grid>
  );
}
