/** Where the files go: they wait to be fetched, or lie in a folder on the server. */
import { Input, Text } from "@chakra-ui/react";
import { useDeliveryFolder } from "../../api/queries";
import { Select } from "../../shared/fields";
import { Choice } from "./Choice";

type Props = { job: string; to: string | null; onTo: (to: string | null) => void };

const KINDS = [
  ["fetch", "Download"],
  ["folder", "A folder on the server"],
] as const;

export function Destination({ job, to, onTo }: Props) {
  const { data } = useDeliveryFolder();
  if (!data?.name) return null;
  return (
    <Choice label="Deliver to">
      <Select
        label="Where the files go"
        value={to === null ? "fetch" : "folder"}
        options={KINDS}
        onChange={(kind) => onTo(kind === "fetch" ? null : job)}
        size="sm"
        width="17rem"
      />
      {to !== null && (
        <>
          <Text layerStyle="quiet" flexShrink={0}>
            {data.name} /
          </Text>
          <Input
            size="sm"
            w="17rem"
            maxLength={180}
            aria-label="Folder on the server"
            list="delivery-folders"
            value={to}
            onChange={(event) => onTo(event.target.value)}
          />
          <datalist id="delivery-folders">
            {data.folders.map((name) => (
              <option key={name} value={name} />
            ))}
          </datalist>
          {data.folders.includes(to) && (
            <Text layerStyle="quiet">already exists: only changed files are replaced</Text>
          )}
        </>
      )}
    </Choice>
  );
}
