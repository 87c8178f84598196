/** The name of the job as the heading of its page, and another name for it. */
import { Input } from "@chakra-ui/react";
import { Pencil } from "lucide-react";
import { useState } from "react";
import { useRenameJob } from "../api/actions";
import { tellProblem } from "../shared/notices";
import { PageHeading } from "../shared/PageHeading";
import { QuietButton } from "../shared/parts";
import { Tip } from "../shared/Tip";

export function JobName({ id, name }: { id: string; name: string }) {
  const rename = useRenameJob(id);
  const [text, setText] = useState<string | null>(null);
  const keep = () => {
    const wanted = text?.trim();
    if (wanted && wanted !== name) rename.mutate(wanted, { onError: tellProblem });
    setText(null);
  };
  if (text !== null)
    return (
      <Input
        size="sm"
        autoFocus
        w="20rem"
        value={text}
        maxLength={200}
        aria-label="Name of the job"
        onChange={(event) => setText(event.target.value)}
        onBlur={keep}
        onKeyDown={(event) => {
          if (event.key === "Enter") keep();
          if (event.key === "Escape") setText(null);
        }}
      />
    );
  return (
    <>
      <PageHeading as="h1" title={name} fontSize="lg" truncate>
        {name}
      </PageHeading>
      <Tip text="Rename the job">
        <QuietButton aria-label="Rename the job" px={1} ml={-2} onClick={() => setText(name)}>
          <Pencil size={14} />
        </QuietButton>
      </Tip>
    </>
  );
}
