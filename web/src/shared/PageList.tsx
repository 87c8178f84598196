/** The pages of a book, to choose from; which one is open. */
import { Box } from "@chakra-ui/react";
import { Link } from "react-router";

type Props = { to: string; pages: readonly { id: string; title: string }[]; open: string };

export function PageList({ to, pages, open }: Props) {
  return pages.map(({ id, title }) => (
    <Link key={id} to={`${to}/${id}`} aria-current={id === open ? "page" : undefined}>
      <Box px={3} py={2} layerStyle="pick">
        {title}
      </Box>
    </Link>
  ));
}
