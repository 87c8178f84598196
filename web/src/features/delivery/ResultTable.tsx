/** Every result that can be delivered, and the file it would become. */
import { Checkbox, Table, Text } from "@chakra-ui/react";
import type { Clip, PlannedFile } from "../../api/client";
import { bytes, clock, depth as depthName, duration, layout } from "../../shared/format";

type Props = {
  results: Clip[];
  chosen: string[];
  /** What would be written; missing while that is worked out, and of what is not chosen. */
  planned: PlannedFile[];
  /** A size depends on what is in the file. */
  atMost: boolean;
  onToggle: (ref: string) => void;
};

export function ResultTable({ results, chosen, planned, atMost, onToggle }: Props) {
  return (
    <Table.Root size="sm" mb={10}>
      <Table.Header>
        <Table.Row bg="transparent">
          {["Deliver", "File", "Format", "Length", "Start time", "Size"].map((title) => (
            <Table.ColumnHeader key={title} color="fg.quiet">
              {title}
            </Table.ColumnHeader>
          ))}
        </Table.Row>
      </Table.Header>
      <Table.Body>
        {results.map((clip) => (
          <ResultRow
            key={clip.ref}
            clip={clip}
            chosen={chosen.includes(clip.ref)}
            file={planned.find((one) => one.ref === clip.ref) ?? null}
            atMost={atMost}
            onToggle={() => onToggle(clip.ref)}
          />
        ))}
      </Table.Body>
    </Table.Root>
  );
}

type RowProps = {
  clip: Clip;
  chosen: boolean;
  file: PlannedFile | null;
  atMost: boolean;
  onToggle: () => void;
};

function ResultRow({ clip, chosen, file, atMost, onToggle }: RowProps) {
  const impossible = file?.outside ?? file?.refused;
  const { frames, start_time } = file ?? clip;
  return (
    <Table.Row bg="transparent" color={chosen ? "fg" : "fg.quiet"}>
      <Table.Cell w={8}>
        <Checkbox.Root size="sm" checked={chosen} onCheckedChange={onToggle}>
          <Checkbox.HiddenInput aria-label={`Deliver ${clip.name}`} />
          <Checkbox.Control borderColor="fg.quiet" />
        </Checkbox.Root>
      </Table.Cell>
      <Table.Cell fontWeight={600} overflowWrap="anywhere">
        {file?.file ?? clip.name}
      </Table.Cell>
      <Table.Cell>
        {layout(clip.channels)} · {clip.rate / 1000} kHz{file && ` · ${depthName(file.depth)}`}
        {file?.dithered && " · dithered"}
        {file?.over_db ? (
          <Text as="span" color="trouble">
            {" "}
            · clips by {file.over_db.toFixed(1)} dB
          </Text>
        ) : null}
      </Table.Cell>
      {impossible ? (
        <Table.Cell colSpan={3} color="trouble">
          {impossible}
        </Table.Cell>
      ) : (
        <>
          <Table.Cell>{duration(frames, clip.rate)}</Table.Cell>
          <Table.Cell>{start_time === null ? "–" : clock(start_time / clip.rate)}</Table.Cell>
          <Table.Cell>{file && `${atMost ? "up to " : ""}${bytes(file.bytes)}`}</Table.Cell>
        </>
      )}
    </Table.Row>
  );
}
