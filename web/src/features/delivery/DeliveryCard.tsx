/** One delivery: how far it is, its files to be fetched, and their proofs. */
import { Box, Flex, Progress, Text } from "@chakra-ui/react";
import { Check, Download, TriangleAlert } from "lucide-react";
import { deleteDelivery, stopDelivery } from "../../api/actions";
import type { Delivery, DeliveryRange } from "../../api/client";
import { bytes, clock, count, dateTime } from "../../shared/format";
import { tellProblem } from "../../shared/notices";
import { QuietButton } from "../../shared/parts";

export function DeliveryCard({ delivery }: { delivery: Delivery }) {
  const { id, state, progress, range, manifest, error } = delivery;
  const running = state === "waiting" || state === "writing";
  const base = `/api/deliveries/${id}`;
  return (
    <Box bg="raised" borderRadius="md" p={4} mb={3} data-testid="delivery" data-state={state}>
      <Flex align="center" gap={3} mb={running || manifest || error ? 2 : 0}>
        <Text fontWeight={600} flex={1}>
          {STATES[state]} · {count(manifest?.files.length ?? delivery.refs.length, "file")} ·{" "}
          {range && `${rangeText(range)} · `}
          <Text as="span" color="fg.quiet" fontWeight={400}>
            {dateTime(delivery.created)}
          </Text>
        </Text>
        {running && <QuietButton onClick={() => void stopDelivery(id).catch(tellProblem)}>Stop</QuietButton>}
        {manifest && (
          <QuietButton asChild color="fg" borderWidth={1} borderColor="line">
            <a href={`${base}/archive`} download>
              <Download size={14} /> Download all as ZIP
            </a>
          </QuietButton>
        )}
        {!running && (
          <QuietButton onClick={() => void deleteDelivery(id).catch(tellProblem)}>
            {manifest ? "Remove" : "Dismiss"}
          </QuietButton>
        )}
      </Flex>
      {running && (
        <Progress.Root value={progress * 100} size="xs">
          <Progress.Track bg="raised.high" aria-label="Progress of the delivery">
            <Progress.Range bg="right" />
          </Progress.Track>
        </Progress.Root>
      )}
      {error && (
        <Text color="trouble" role="alert">
          {error.message}. <Text as="span">{error.help}</Text>
        </Text>
      )}
      {manifest?.files.map((file) => (
        <Flex key={file.name} gap={3} py={0.5}>
          <a
            href={`${base}/files/${encodeURIComponent(file.name)}`}
            download
            style={{ overflowWrap: "anywhere" }}
          >
            {file.name}
          </a>
          {file.copied && <Text color="fg.quiet">copied unchanged</Text>}
          <Text
            color="fg.quiet"
            ml="auto"
            flexShrink={0}
            fontFamily="mono"
            fontSize="xs"
            title="XXH128 checksum of the file"
          >
            {file.xxh128.slice(0, 12)}
          </Text>
          <Text color="fg.quiet" w={16} textAlign="right" flexShrink={0}>
            {bytes(file.bytes)}
          </Text>
        </Flex>
      ))}
      {manifest?.proofs.map(({ key, proof }) => (
        <Flex key={key} gap={2} mt={1} color={proof.exact ? "proved" : "fg"} data-testid="delivery-proof">
          <Box flexShrink={0} pt={0.5}>
            {proof.exact ? <Check size={14} /> : <TriangleAlert size={14} />}
          </Box>
          <Text>{proof.statement}</Text>
        </Flex>
      ))}
      {manifest?.findings?.map((finding) => (
        <Text key={finding.message} color="fg.quiet" mt={1}>
          {finding.message}
        </Text>
      ))}
    </Box>
  );
}

const rangeText = ({ start, end, time }: NonNullable<DeliveryRange>) =>
  `${clockOf(start)} to ${clockOf(end)}${time === "recorded" ? ", recorded time" : ""}`;
/** Ranges of deliveries are in seconds. */
const clockOf = (place: number | string) => (typeof place === "number" ? clock(place) : place);

const STATES: Record<Delivery["state"], string> = {
  waiting: "Waiting",
  writing: "Writing and verifying",
  done: "Delivered",
  failed: "Failed",
  stopped: "Stopped",
};
