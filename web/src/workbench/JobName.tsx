/** The name of the job as the heading of its page, and another name for it. */
import { Pencil } from "lucide-react";
import { useState } from "react";
import { useRenameJob } from "../api/actions";
import { NameField } from "../shared/NameField";
import { tellProblem } from "../shared/notices";
import { PageHeading } from "../shared/PageHeading";
import { QuietButton } from "../shared/parts";
import { Tip } from "../shared/Tip";

export function JobName({ id, name }: { id: string; name: string }) {
  const rename = useRenameJob(id);
  const [naming, setNaming] = useState(false);
  const keep = (wanted: string) => {
    if (wanted && wanted !== name) rename.mutate(wanted, { onError: tellProblem });
    setNaming(false);
  };
  if (naming) return <NameField label="Job name" size="sm" w="20rem" value={name} onKeep={keep} />;
  return (
    <>
      <PageHeading as="h1" title={name} size="title" truncate>
        {name}
      </PageHeading>
      <Tip text="Rename the job">
        <QuietButton aria-label="Rename the job" px={1} ml={-2} onClick={() => setNaming(true)}>
          <Pencil size={14} />
        </QuietButton>
      </Tip>
    </>
  );
}
