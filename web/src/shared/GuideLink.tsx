/** To a page of the guide, beside what is being worked on: in a window of its own. */
import { Link } from "@chakra-ui/react";
import type { ReactNode } from "react";

export function GuideLink({ page, children }: { page: string; children: ReactNode }) {
  return (
    <Link href={`/guide/${page}`} target="_blank" rel="noopener" variant="underline">
      {children}
    </Link>
  );
}
