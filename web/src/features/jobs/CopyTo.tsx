/** Files or lines copied into another job, or into a new one. */
import { Flex, Input, Text } from "@chakra-ui/react";
import { type FormEvent, useState } from "react";
import { useCopyTo } from "../../api/actions";
import type { Job } from "../../api/client";
import { useJobs } from "../../api/queries";
import { count } from "../../shared/format";
import { tell, tellProblem } from "../../shared/notices";
import { PrimaryButton, QuietButton } from "../../shared/parts";
import { Sheet } from "../../shared/Sheet";

/** The ids of what is copied. */
export type Copied = { sources: string[]; steps: string[] };
type Props = { job: Job; copied: Copied | null; onClose: () => void };

export function CopyTo({ job, copied, onClose }: Props) {
  const jobs = useJobs(copied !== null);
  const copy = useCopyTo(job);
  const [name, setName] = useState("");
  const what = copied?.steps.length
    ? count(copied.steps.length, "line")
    : count(copied?.sources.length ?? 0, "file");
  const to = (to: { id: string } | { name: string }) => {
    if (!copied) return;
    copy.mutate(
      { to, ...copied },
      {
        onSuccess: (into) => {
          tell(`Copied ${what} to ${into.name}`, "Find it under All jobs.");
          setName("");
          onClose();
        },
        onError: tellProblem,
      },
    );
  };
  const toNew = (event: FormEvent) => {
    event.preventDefault();
    if (name.trim()) to({ name: name.trim() });
  };
  const others = jobs.data?.filter((one) => one.id !== job.id) ?? [];
  return (
    <Sheet title={`Copy ${what} to another job`} open={copied !== null} onClose={onClose}>
      <Text layerStyle="quiet" mb={3}>
        {copied?.steps.length
          ? "The files and lines they depend on are copied too. "
          : "Notes are copied with the files. "}
        Each file is stored once, however many jobs use it.
      </Text>
      {others.map((one) => (
        <Flex key={one.id} align="center" gap={3} layerStyle="row">
          <Text flex={1} truncate>
            {one.name}
          </Text>
          <QuietButton disabled={copy.isPending} aria-label={`Copy to ${one.name}`} onClick={() => to(one)}>
            Copy here
          </QuietButton>
        </Flex>
      ))}
      <form onSubmit={toNew}>
        <Flex layerStyle="parted" gap={2} pt={3}>
          <Input
            size="sm"
            value={name}
            maxLength={200}
            placeholder="Name of a new job"
            aria-label="Name of a new job"
            onChange={(event) => setName(event.target.value)}
          />
          <PrimaryButton type="submit" disabled={!name.trim()} loading={copy.isPending}>
            Copy to a new job
          </PrimaryButton>
        </Flex>
      </form>
    </Sheet>
  );
}
