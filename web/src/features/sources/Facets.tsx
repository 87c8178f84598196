/** What the files have in common: choose one and only those are shown, with what can be done for all of them. */
import { Button, Flex, Text } from "@chakra-ui/react";
import { count } from "../../shared/format";
import type { FileActions } from "./actions";
import type { Facet } from "./rows";

type Props = {
  facets: Facet[];
  chosen: Facet | null;
  onChoose: (facet: Facet | null) => void;
  actions: FileActions;
};

export function Facets({ facets, chosen, onChoose, actions }: Props) {
  if (!facets.length) return null;
  return (
    <>
      <Flex wrap="wrap" gap={1} mt={2} maxH="100px" overflowY="auto" role="group" aria-label="Filters">
        {facets.map((facet) => (
          <Button
            key={facet.id}
            size="2xs"
            h="20px"
            px={2}
            borderRadius="full"
            variant="outline"
            aria-pressed={facet.id === chosen?.id}
            borderColor={facet.id === chosen?.id ? "fg" : "line"}
            bg={facet.id === chosen?.id ? "raised.high" : "transparent"}
            color={facet.grave ? "trouble" : "fg.quiet"}
            fontWeight={400}
            onClick={() => onChoose(facet.id === chosen?.id ? null : facet)}
          >
            {facet.label}
          </Button>
        ))}
      </Flex>
      {chosen && (
        <Flex mt={2} gap={2} align="center" bg="raised" borderRadius="md" px={2} py={1.5}>
          {chosen.action ? (
            <Button
              size="xs"
              bg="fg"
              color="ground"
              onClick={() => {
                void actions.add(chosen.action?.steps ?? []);
                onChoose(null);
              }}
            >
              {chosen.action.label}
            </Button>
          ) : (
            <Text fontSize="xs" color="fg.quiet">
              {count(chosen.refs.length, "file")}
            </Text>
          )}
          <Button
            size="xs"
            variant="ghost"
            color="fg.quiet"
            ml="auto"
            onClick={() => {
              actions.archive(chosen.spare ?? chosen.refs, chosen.id !== "archived");
              onChoose(null);
            }}
          >
            {chosen.id === "archived"
              ? "Restore"
              : chosen.spare
                ? `Archive all but the first of each (${chosen.spare.length})`
                : "Archive"}
          </Button>
        </Flex>
      )}
    </>
  );
}
