/** Files on their way: each with its progress while they are few, all of them as one while they are many. */
import { Box, Flex, IconButton, Progress, Text } from "@chakra-ui/react";
import { X } from "lucide-react";
import { useState } from "react";
import { bytes, count } from "../../shared/format";
import { QuietButton, SecondaryButton } from "../../shared/parts";
import type { Upload } from "./uploadStore";
import type { Uploads } from "./uploads";

const FEW = 3;

export function UploadRows({ uploads }: { uploads: Uploads }) {
  const { all, unfinished } = uploads;
  const [open, setOpen] = useState(false);
  const going = all.filter((one) => !one.problem);
  const failed = all.filter((one) => one.problem);
  const share = going.reduce((sum, one) => sum + one.share * one.file.size, 0);
  const size = going.reduce((sum, one) => sum + one.file.size, 0);
  if (!all.length && !unfinished.length) return null;
  return (
    <Box layerStyle="parted" maxH="40%" overflowY="auto" flexShrink={0}>
      {going.length > FEW ? (
        <Line
          text={`Adding ${count(going.length, "file")}, ${bytes(size)}`}
          share={size ? share / size : 0}
          close="Cancel all"
          onClose={() => uploads.stopAll()}
        />
      ) : (
        going.map((one) => (
          <Line
            key={one.id}
            text={one.waiting ? `${one.file.name}: connection lost, retrying` : one.file.name}
            share={one.share}
            close={`Stop ${one.file.name}`}
            onClose={() => uploads.dismiss(one.id)}
          />
        ))
      )}
      {failed.length > 1 && (
        <Flex textStyle="small" px={4} py={1} align="center" role="alert">
          <Text layerStyle="danger" flex={1}>
            {count(failed.length, "file")} couldn’t be added
          </Text>
          <QuietButton aria-expanded={open} onClick={() => setOpen(!open)}>
            {open ? "Hide" : "Show"}
          </QuietButton>
          <QuietButton onClick={() => uploads.dismissFailed()}>Dismiss all</QuietButton>
        </Flex>
      )}
      {(open || failed.length === 1 ? failed : []).map((one) => (
        <Failed
          key={one.id}
          upload={one}
          alone={failed.length === 1}
          onAgain={(salvage) => uploads.again(one.id, salvage)}
          onClose={() => uploads.dismiss(one.id)}
        />
      ))}
      {unfinished.map((one) => (
        <Flex key={one.id} px={4} py={2} gap={2} align="start" role="status">
          <Box textStyle="small" flex={1} minW={0}>
            <Text truncate title={one.name}>
              {one.name}: incomplete, {bytes(one.size - one.offset)} of {bytes(one.size)} left
            </Text>
            <Text layerStyle="quiet">Drop the file again to resume.</Text>
          </Box>
          <Close label={`Discard ${one.name}`} onClick={() => uploads.giveUp(one.id)} />
        </Flex>
      ))}
    </Box>
  );
}

function Line(props: { text: string; share: number; close: string; onClose: () => void }) {
  return (
    <Flex px={4} py={2} gap={2} align="start" role="status">
      <Box flex={1} minW={0}>
        <Text textStyle="small" truncate>
          {props.text}
        </Text>
        <Progress.Root mt={2} value={Math.round(props.share * 100)}>
          <Progress.Track aria-label={props.text}>
            <Progress.Range />
          </Progress.Track>
        </Progress.Root>
      </Box>
      <Close label={props.close} onClick={props.onClose} />
    </Flex>
  );
}

/** Where the file itself is at fault, sending it again changes nothing. */
const OF_THE_FILE = new Set([
  "not-audio",
  "no-sound",
  "media-extra",
  "broken-audio",
  "truncated",
  "no-frames",
  "bad-header",
  "out-of-limits",
  "bad-name",
]);

type FailedProps = {
  upload: Upload;
  alone: boolean;
  onAgain: (salvage: boolean) => void;
  onClose: () => void;
};

function Failed({ upload, alone, onAgain, onClose }: FailedProps) {
  const { problem } = upload;
  return (
    <Flex px={4} py={2} gap={2} align="start" {...(alone && { role: "alert" })}>
      <Box textStyle="small" flex={1} minW={0}>
        <Text layerStyle="danger" overflowWrap="anywhere">
          {problem?.message}
        </Text>
        <Text layerStyle="quiet">{problem?.help}</Text>
        {problem?.usable && (
          <SecondaryButton mt={1} onClick={() => onAgain(true)}>
            Use what is there: {problem.usable}
          </SecondaryButton>
        )}
      </Box>
      {problem && !OF_THE_FILE.has(problem.code) && (
        <QuietButton onClick={() => onAgain(false)}>Try again</QuietButton>
      )}
      <Close label="Close" onClick={onClose} />
    </Flex>
  );
}

function Close({ label, onClick }: { label: string; onClick: () => void }) {
  return (
    <IconButton size="2xs" variant="ghost" aria-label={label} onClick={onClick}>
      <X />
    </IconButton>
  );
}
