/** Adding a turn: the ones that take what is chosen, by name or by a click. */
import { Button, Flex, Input, Text } from "@chakra-ui/react";
import { Plus } from "lucide-react";
import { type KeyboardEvent, type RefObject, useState } from "react";
import type { Clip, Group, NewStep } from "../../api/client";
import { KeyCap } from "../../shared/parts";
import { type Offer, offersFor } from "./offers";

type Props = {
  chosen: Clip[];
  groups: Group[];
  input: RefObject<HTMLInputElement | null>;
  onAdd: (steps: NewStep[]) => void;
};

export function AddTurn({ chosen, groups, input, onAdd }: Props) {
  const [text, setText] = useState("");
  const [open, setOpen] = useState(false);
  const [at, setAt] = useState(0);
  const offers = offersFor(chosen, groups)
    .filter((offer) => (offer.name ?? offer.kind).startsWith(text.trim().toLowerCase()))
    .sort((a, b) => Number(a.refused !== null) - Number(b.refused !== null));
  const close = () => {
    setText("");
    setOpen(false);
    setAt(0);
    input.current?.blur();
  };
  const take = (offer: Offer | undefined) => {
    if (!offer || offer.refused) return;
    onAdd(offer.steps);
    close();
  };
  const keys = (event: KeyboardEvent) => {
    if (event.key === "ArrowDown") setAt((n) => Math.min(offers.length - 1, n + 1));
    else if (event.key === "ArrowUp") setAt((n) => Math.max(0, n - 1));
    else if (event.key === "Enter") take(offers[at]);
    else if (event.key === "Escape") close();
    else return;
    event.preventDefault();
  };
  return (
    <Flex align="center" gap={3} h={10} position="relative" flexShrink={0}>
      <Plus size={14} />
      <Input
        ref={input}
        size="sm"
        variant="flushed"
        borderColor="transparent"
        w="10.5rem"
        value={text}
        placeholder="Add a turn"
        aria-label="Add a turn"
        aria-expanded={open}
        role="combobox"
        aria-controls="offers"
        onFocus={() => setOpen(true)}
        onBlur={() => setTimeout(() => setOpen(false), 150)}
        onChange={(event) => {
          setText(event.target.value);
          setAt(0);
        }}
        onKeyDown={keys}
      />
      {!open && (
        <Text color="fg.quiet" fontSize="xs">
          or type <KeyCap>t</KeyCap>
        </Text>
      )}
      {open && (
        <Flex
          id="offers"
          role="listbox"
          position="absolute"
          top="100%"
          left={6}
          zIndex="dropdown"
          direction="column"
          bg="raised.high"
          borderWidth={1}
          borderColor="line"
          borderRadius="md"
          p={1}
          minW="26rem"
          maxW="full"
          maxH="420px"
          overflowY="auto"
        >
          {offers.length === 0 && (
            <Text p={2} color="fg.quiet">
              No turn begins with “{text}”
            </Text>
          )}
          {offers.map((offer, n) => (
            <Button
              key={offer.name ?? offer.kind}
              role="option"
              aria-selected={n === at}
              variant="ghost"
              size="sm"
              justifyContent="start"
              gap={2}
              tabIndex={-1}
              color="fg"
              bg={n === at && !offer.refused ? "raised" : "transparent"}
              disabled={offer.refused !== null}
              onPointerDown={(event) => event.preventDefault()}
              onClick={() => take(offer)}
            >
              <Text fontWeight={700}>{offer.name ?? offer.kind}</Text>
              <Text color="fg.quiet" truncate>
                {offer.refused ?? offer.label}
              </Text>
            </Button>
          ))}
        </Flex>
      )}
    </Flex>
  );
}
