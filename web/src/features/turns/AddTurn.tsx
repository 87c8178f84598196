/** Adding a turn: the ones that take what is chosen, by name or by a click. */
import { Flex, Input, Text } from "@chakra-ui/react";
import { Plus } from "lucide-react";
import { type KeyboardEvent, useRef, useState } from "react";
import type { Clip, Group, NewStep, Recipe } from "../../api/client";
import { Keys } from "../../shared/commands";
import type { SelectedRange } from "../../shared/places";
import type { Offer } from "./kind";
import { answers, offersFor } from "./offers";

/** What is current is seen. (jsdom has no scrolling.) */
const seen = (element: HTMLElement | null) => element?.scrollIntoView?.({ block: "nearest" });

type Props = {
  chosen: Clip[];
  groups: Group[];
  /** What is selected over what is shown. */
  selected: () => SelectedRange | null;
  input: (input: HTMLInputElement | null) => void;
  /** Where it goes, where that is not the end. */
  place: string | null;
  onAdd: (steps: NewStep[]) => void;
  recipes: readonly Recipe[];
  onRecipe: (recipe: string) => void;
  onClose: () => void;
  /** The focus may go back to where it came from. */
  onDone: () => void;
};

export function AddTurn({
  chosen,
  groups,
  selected,
  input,
  place,
  onAdd,
  recipes,
  onRecipe,
  onClose,
  onDone,
}: Props) {
  const [text, setText] = useState("");
  const [open, setOpen] = useState(false);
  const [at, setAt] = useState(0);
  const field = useRef<HTMLInputElement | null>(null);
  const every = open ? offersFor(chosen, groups, selected()) : [];
  const offers = every
    .flatMap((offer, n) => {
      const rank = answers(offer, text);
      return rank === null ? [] : [{ offer, key: `turn ${n}`, rank: 2 * rank + (offer.refused ? 1 : 0) }];
    })
    .sort((a, b) => a.rank - b.rank)
    .map(({ offer, key }) => turnItem(key, offer, () => onAdd(offer.steps)))
    .concat(open && !place ? recipeItems(recipes, text, chosen.length > 0, onRecipe) : []);
  const close = () => {
    setText("");
    setOpen(false);
    setAt(0);
    onDone();
  };
  const take = (offer: Item | undefined) => {
    if (!offer || offer.refused) return;
    // The place is forgotten when the field loses the focus.
    offer.take();
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
        ref={(element) => {
          field.current = element;
          input(element);
        }}
        size="sm"
        variant="flushed"
        w="10.5rem"
        value={text}
        placeholder={place ?? "Add a turn"}
        aria-label={place ?? "Add a turn"}
        aria-expanded={open}
        role="combobox"
        aria-controls="offers"
        aria-autocomplete="list"
        aria-activedescendant={open && offers[at] ? `offer${at}` : undefined}
        onFocus={() => setOpen(true)}
        onBlur={() => {
          // By then the field may have the focus again, for the next turn.
          setTimeout(() => setOpen(document.activeElement === field.current), 150);
          onClose();
        }}
        onChange={(event) => {
          setText(event.target.value);
          setAt(0);
        }}
        onKeyDown={keys}
      />
      {!open && (
        <Text layerStyle="note">
          or press <Keys of="addTurn" />
        </Text>
      )}
      {open && offers.length > 0 && (
        <Flex
          layerStyle="floating"
          id="offers"
          role="listbox"
          position="absolute"
          top="100%"
          left={6}
          zIndex="dropdown"
          direction="column"
          p={1}
          minW="26rem"
          maxW="full"
          maxH="420px"
          overflowY="auto"
          aria-label="Turns that can be added"
        >
          {offers.map((offer, n) => (
            <Flex
              key={offer.key}
              id={`offer${n}`}
              ref={n === at ? seen : undefined}
              role="option"
              aria-selected={n === at}
              aria-disabled={offer.refused !== null}
              align="center"
              gap={2}
              px={3}
              minH={9}
              cursor={offer.refused ? "default" : "pointer"}
              layerStyle="pick"
              onPointerDown={(event) => event.preventDefault()}
              onClick={() => take(offer)}
            >
              <Text textStyle="strong" flexShrink={0} maxW="14rem" truncate>
                {offer.name}
              </Text>
              <Text layerStyle="quiet" truncate>
                {offer.refused ?? offer.label}
              </Text>
            </Flex>
          ))}
        </Flex>
      )}
      {open && offers.length === 0 && (
        <Text
          layerStyle="floating"
          role="status"
          position="absolute"
          top="100%"
          left={6}
          zIndex="dropdown"
          p={3}
          w="26rem"
          maxW="full"
        >
          No turn matches “{text.trim()}”. Select files first, then type one of{" "}
          {[...new Set(every.map((offer) => offer.name ?? offer.kind))].join(", ")}.
        </Text>
      )}
    </Flex>
  );
}

/** One of the things that can be added. */
type Item = { key: string; name: string; label: string; refused: string | null; take: () => void };

const turnItem = (key: string, { name, kind, label, refused }: Offer, take: () => void): Item => ({
  key,
  name: name ?? kind,
  label,
  refused,
  take,
});

/** Recipes whose name, or a word of it, begins with what was typed; without anything typed all of them. */
function recipeItems(
  recipes: readonly Recipe[],
  typed: string,
  anyChosen: boolean,
  onRecipe: (id: string) => void,
): Item[] {
  const text = typed.trim().toLowerCase();
  const fits = ({ name, problem }: Recipe) =>
    !problem && [name, ...name.split(/\s+/), "recipe"].some((word) => word.toLowerCase().startsWith(text));
  return recipes.filter(fits).map(({ id, name, roles }) => ({
    key: id,
    name,
    label: `recipe for ${roles.join(", ")}`,
    refused: anyChosen ? null : `select files for ${roles.join(", ")} first`,
    take: () => onRecipe(id),
  }));
}
