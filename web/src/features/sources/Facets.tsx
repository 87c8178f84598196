/** What the files have in common: choose one and only those are shown, with what can be done for all of them. */
import { Button, Flex, Text, useBreakpointValue } from "@chakra-ui/react";
import { ChevronDown, ChevronUp } from "lucide-react";
import { useState } from "react";
import { count } from "../../shared/format";
import { PrimaryButton, QuietButton } from "../../shared/parts";
import type { FileActions } from "./actions";
import type { Facet } from "./rows";

type Props = {
  facets: Facet[];
  chosen: Facet | null;
  onChoose: (facet: Facet | null) => void;
  actions: FileActions;
};

/** So many stand in the row, by the width of the page; the others behind *More*. */
const IN_SIGHT = { base: 2, xl: 3, "2xl": 4 };

export function Facets({ facets, chosen, onChoose, actions }: Props) {
  const [open, setOpen] = useState(false);
  const room = useBreakpointValue(IN_SIGHT) ?? IN_SIGHT.base;
  if (!facets.length) return null;
  const first = facets.slice(0, room);
  // What is chosen stays in sight.
  const row = chosen && !first.includes(chosen) ? [chosen, ...first.slice(0, room - 1)] : first;
  const others = facets.filter((facet) => !row.includes(facet));
  const chip = (facet: Facet) => (
    <FacetChip
      key={facet.id}
      facet={facet}
      // Where there is no room, the last of the row gives way.
      givesWay={facet === row.at(-1)}
      pressed={facet.id === chosen?.id}
      onClick={() => onChoose(facet.id === chosen?.id ? null : facet)}
    />
  );
  const [Arrow, more] = open ? [ChevronUp, "Less"] : [ChevronDown, "More"];
  return (
    <>
      <Flex mt={2} direction="column" gap={1} role="group" aria-label="Filters">
        <Flex gap={1}>
          {row.map(chip)}
          {others.length > 0 && (
            <QuietButton size="2xs" px={1} ml="auto" aria-expanded={open} onClick={() => setOpen(!open)}>
              {more} <Arrow />
            </QuietButton>
          )}
        </Flex>
        {open && (
          <Flex wrap="wrap" gap={1}>
            {others.map(chip)}
          </Flex>
        )}
      </Flex>
      {chosen && (
        <Flex layerStyle="panel" mt={2} gap={2} align="center" px={2} py={1}>
          {chosen.action ? (
            <PrimaryButton
              size="xs"
              onClick={() => {
                void actions.add(chosen.action?.steps ?? []);
                onChoose(null);
              }}
            >
              {chosen.action.label}
            </PrimaryButton>
          ) : (
            <Text layerStyle="note">{count(chosen.refs.length, "file")}</Text>
          )}
          <QuietButton
            ml="auto"
            onClick={() => {
              actions.archive(chosen.spare ?? chosen.refs, chosen.id !== "archived");
              onChoose(null);
            }}
          >
            {chosen.id === "archived"
              ? "Restore"
              : chosen.spare
                ? `Archive ${count(chosen.spare.length, "duplicate")}`
                : "Archive"}
          </QuietButton>
        </Flex>
      )}
    </>
  );
}

type ChipProps = { facet: Facet; givesWay: boolean; pressed: boolean; onClick: () => void };

function FacetChip({ facet, givesWay, pressed, onClick }: ChipProps) {
  return (
    <Button
      size="2xs"
      variant="outline"
      textStyle="plain"
      layerStyle="facet"
      data-grave={facet.grave || undefined}
      minW={0}
      flexShrink={givesWay ? 1 : 0}
      px={2}
      aria-pressed={pressed}
      onClick={onClick}
    >
      <Text as="span" truncate>
        {facet.label}
      </Text>
    </Button>
  );
}
