/** One delivery: how far it is, its files to be fetched, and their proofs. */
import { Box, Flex, Progress, Text } from "@chakra-ui/react";
import { Check, Download } from "lucide-react";
import { type DragEvent, useState } from "react";
import { deleteDelivery, stopDelivery } from "../../api/actions";
import type { Delivery, DeliveryRange, Proof } from "../../api/client";
import { ConfirmDelete } from "../../shared/ConfirmDelete";
import { bytes, clock, count, dateTime } from "../../shared/format";
import { LongList } from "../../shared/LongList";
import { tellProblem } from "../../shared/notices";
import { PrimaryButton, QuietButton, SecondaryButton } from "../../shared/parts";
import { Differences } from "./Differences";
import { filePath, isRunning } from "./direct";

type Props = {
  delivery: Delivery;
  /** Deliveries before it that were finished, the newest first. */
  earlier: Delivery[];
  /** It was begun last, and is what one waits for. */
  latest: boolean;
  /** Deliver the same of the worksheet as it is now. */
  onAgain: () => void;
};

export function DeliveryCard({ delivery, latest, earlier, onAgain }: Props) {
  const { id, state, range, to, manifest, error } = delivery;
  const [comparing, setComparing] = useState(false);
  const [deleting, setDeleting] = useState(false);
  const running = isRunning(delivery);
  // Of what was just delivered it is the next thing to do.
  const Save = latest ? PrimaryButton : SecondaryButton;
  const remove = () => void deleteDelivery(id).catch(tellProblem);
  const kept = manifest?.files.filter((file) => file.kept).length ?? 0;
  return (
    <Box layerStyle="card" mb={3} data-testid="delivery" data-state={state}>
      <Flex align="center" gap={1} mb={running || manifest || error ? 2 : 0} wrap="wrap">
        <Text textStyle="strong" flex={1} minW="16rem" role="status">
          {STATES[state]} · {count(manifest?.files.length ?? delivery.refs.length, "file")} ·{" "}
          {kept > 0 && `${kept} unchanged · `}
          {range && `${rangeText(range)} · `}
          {to !== null && `in ${to} · `}
          <Text layerStyle="quiet" textStyle="plain" as="span">
            {dateTime(delivery.created)}
          </Text>
        </Text>
        {running && <QuietButton onClick={() => void stopDelivery(id).catch(tellProblem)}>Stop</QuietButton>}
        {manifest && (
          <>
            <Save asChild>
              <a href={`/api/deliveries/${id}/archive`} download>
                <Download size={14} /> Download all as ZIP
              </a>
            </Save>
            <QuietButton asChild>
              <a href={`/api/deliveries/${id}/files/${REPORT}`} target="_blank" rel="noreferrer">
                Report
              </a>
            </QuietButton>
            {earlier.length > 0 && (
              <QuietButton aria-expanded={comparing} onClick={() => setComparing(!comparing)}>
                Compare
              </QuietButton>
            )}
          </>
        )}
        {!running && <QuietButton onClick={onAgain}>Deliver again</QuietButton>}
        {!running && (
          <QuietButton onClick={() => (manifest ? setDeleting(true) : remove())}>
            {manifest ? "Delete…" : "Dismiss"}
          </QuietButton>
        )}
      </Flex>
      <ConfirmDelete
        title={`Delete this delivery of ${count(manifest?.files.length ?? 0, "file")}?`}
        open={deleting}
        onClose={() => setDeleting(false)}
        onDelete={remove}
      >
        {to === null
          ? "Its files, their manifest and the report are deleted from the data folder."
          : `It is removed from this list. The files in ${to} stay.`}{" "}
        This can’t be undone.
      </ConfirmDelete>
      {running && <Running delivery={delivery} />}
      {error && (
        <Text layerStyle="danger" role="alert">
          {error.message}. <Text as="span">{error.help}</Text>
        </Text>
      )}
      {comparing && <Differences delivery={id} earlier={earlier} />}
      {manifest && (
        <LongList
          rows={[...manifest.files, ...manifest.proofs]}
          keyOf={(row) => ("name" in row ? row.name : row.key)}
          estimate={28}
          maxH="20rem"
          role="group"
          aria-label="What was delivered"
          tabIndex={0}
        >
          {(row) => ("name" in row ? <File id={id} file={row} /> : <ProofLine proof={row.proof} />)}
        </LongList>
      )}
      {manifest?.findings?.map((finding) => (
        <Text layerStyle="quiet" key={finding.message} mt={1}>
          {finding.message}
        </Text>
      ))}
    </Box>
  );
}

function Running({ delivery }: { delivery: Delivery }) {
  const { progress, files_done, files, seconds_left } = delivery;
  return (
    <Flex align="center" gap={3}>
      <Progress.Root value={progress * 100} flex={1}>
        <Progress.Track aria-label="Progress of the delivery">
          <Progress.Range />
        </Progress.Track>
      </Progress.Root>
      <Text layerStyle="note" flexShrink={0}>
        {files > 0 && `${files_done} of ${count(files, "file")} done`}
        {seconds_left !== null && ` · ${left(seconds_left)} left`}
      </Text>
    </Flex>
  );
}

function ProofLine({ proof }: { proof: Proof }) {
  return (
    <Flex gap={2} pt={1} layerStyle={proof.exact ? "ok" : "plain"} data-testid="delivery-proof">
      <Box flexShrink={0}>
        <Check size={14} />
      </Box>
      <Text>{proof.statement}</Text>
    </Flex>
  );
}

function File({ id, file }: { id: string; file: NonNullable<Delivery["manifest"]>["files"][number] }) {
  return (
    <Flex gap={3} py={1}>
      <a
        href={filePath(id, file.name)}
        onDragStart={(event) => offerToFolder(event, id, file.name)}
        download
        style={{ overflowWrap: "anywhere" }}
      >
        {file.name}
      </a>
      {file.copied && <Text layerStyle="quiet">copied unchanged</Text>}
      {file.kept && <Text layerStyle="quiet">unchanged, not rewritten</Text>}
      <Text layerStyle="figures" ml="auto" flexShrink={0} title="XXH128 checksum of the file">
        {file.xxh128.slice(0, 12)}
      </Text>
      <Text layerStyle="quiet" w={16} textAlign="right" flexShrink={0}>
        {bytes(file.bytes)}
      </Text>
    </Flex>
  );
}

/** Dragged out of the window, a file lands in the folder where it is let go, in browsers that know how. */
function offerToFolder({ dataTransfer }: DragEvent, id: string, name: string) {
  const address = new URL(filePath(id, name), window.location.href);
  dataTransfer.setData("DownloadURL", `application/octet-stream:${name.split("/").at(-1)}:${address}`);
}

const REPORT = "wedge-turn-report.html";
const left = (seconds: number) =>
  seconds < 60 ? `${Math.max(1, Math.round(seconds))} s` : `${Math.round(seconds / 60)} min`;
const rangeText = ({ start, end, time }: NonNullable<DeliveryRange>) =>
  `${clockOf(start)} to ${clockOf(end)}${time === "recorded" ? ", recorded time" : ""}`;
/** Ranges of deliveries are in seconds. */
const clockOf = (place: number | string) => (typeof place === "number" ? clock(place) : place);

const STATES: Record<Delivery["state"], string> = {
  waiting: "Queued",
  writing: "Writing and verifying",
  done: "Delivered",
  failed: "Failed",
  stopped: "Stopped",
};
