/** What is different in a delivery from an earlier one, file by file. */
import { Box, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { Delivery, FileChange } from "../../api/client";
import { useDifferences } from "../../api/queries";
import { Failed } from "../../shared/Failed";
import { Select } from "../../shared/fields";
import { count, dateTime } from "../../shared/format";

export function Differences({ delivery, earlier }: { delivery: string; earlier: Delivery[] }) {
  const [since, setSince] = useState(earlier[0]?.id ?? null);
  const { data, isError, refetch } = useDifferences(delivery, since);
  const changed = data?.filter((one) => one.change !== "same") ?? [];
  return (
    <Box layerStyle="outlined" p={3} mb={2} role="group" aria-label="Differences">
      <Flex gap={2} align="center" mb={1}>
        <Text layerStyle="quiet" flexShrink={0}>
          Compared with
        </Text>
        <Select
          label="Earlier delivery"
          value={since ?? ""}
          options={earlier.map((one) => [one.id, dateTime(one.created)] as const)}
          onChange={setSince}
          width="15rem"
        />
        {data && (
          <Text layerStyle="quiet">
            {count(data.length - changed.length, "file")} identical, {changed.length} different
          </Text>
        )}
      </Flex>
      {isError && <Failed what="The deliveries could not be compared." onRetry={() => void refetch()} />}
      {changed.map((one) => (
        <Flex key={one.name} gap={3} py={1}>
          <Text textStyle="strong" overflowWrap="anywhere">
            {one.name}
          </Text>
          <Text flexShrink={0}>{CHANGES[one.change]}</Text>
          <Text layerStyle="quiet">{one.detail}</Text>
        </Flex>
      ))}
    </Box>
  );
}

const CHANGES: Record<FileChange["change"], string> = {
  same: "identical",
  written: "same audio, different file",
  samples: "samples changed",
  added: "new",
  removed: "removed",
  renamed: "renamed",
};
