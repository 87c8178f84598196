/** Files on their way: each with its progress while they are few, all of them as one while they are many. */
import { Box, Flex, IconButton, Progress, Text } from "@chakra-ui/react";
import { X } from "lucide-react";
import { bytes, count } from "../../shared/format";
import { QuietButton } from "../../shared/parts";
import type { Upload } from "./uploadStore";
import type { Uploads } from "./uploads";

const FEW = 3;

export function UploadRows({ uploads }: { uploads: Uploads }) {
  const { all, unfinished } = uploads;
  const going = all.filter((one) => !one.problem);
  const failed = all.filter((one) => one.problem);
  const share = going.reduce((sum, one) => sum + one.share * one.file.size, 0);
  const size = going.reduce((sum, one) => sum + one.file.size, 0);
  if (!all.length && !unfinished.length) return null;
  return (
    <Box maxH="40%" overflowY="auto" flexShrink={0} borderTopWidth={1} borderColor="line">
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
        <Flex px={4} pt={2} justify="space-between" align="center" fontSize="xs" role="alert">
          <Text color="trouble">{count(failed.length, "file")} could not be added</Text>
          <QuietButton onClick={() => uploads.dismissFailed()}>Dismiss all</QuietButton>
        </Flex>
      )}
      {failed.map((one) => (
        <Failed
          key={one.id}
          upload={one}
          alone={failed.length === 1}
          onAgain={() => uploads.again(one.id)}
          onClose={() => uploads.dismiss(one.id)}
        />
      ))}
      {unfinished.map((one) => (
        <Flex key={one.id} px={4} py={2} gap={2} align="start" role="status">
          <Box flex={1} minW={0} fontSize="xs">
            <Text truncate title={one.name}>
              {one.name}: {bytes(one.size - one.offset)} of {bytes(one.size)} still to send
            </Text>
            <Text color="fg.quiet">Drop the file again to resume.</Text>
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
        <Text truncate fontSize="xs">
          {props.text}
        </Text>
        <Progress.Root size="xs" mt={1.5} value={Math.round(props.share * 100)}>
          <Progress.Track bg="raised.high" aria-label={props.text}>
            <Progress.Range bg="right" />
          </Progress.Track>
        </Progress.Root>
      </Box>
      <Close label={props.close} onClick={props.onClose} />
    </Flex>
  );
}

type FailedProps = { upload: Upload; alone: boolean; onAgain: () => void; onClose: () => void };

function Failed({ upload, alone, onAgain, onClose }: FailedProps) {
  const { problem } = upload;
  return (
    <Flex px={4} py={2} gap={2} align="start" {...(alone && { role: "alert" })}>
      <Box flex={1} minW={0} fontSize="xs">
        <Text overflowWrap="anywhere" color="trouble">
          {problem?.message}
        </Text>
        <Text color="fg.quiet">{problem?.help}</Text>
      </Box>
      <QuietButton onClick={onAgain}>Try again</QuietButton>
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
