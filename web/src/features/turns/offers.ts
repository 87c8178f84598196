/** What each turn would do with the chosen clips, and why it would not. */
import type { Clip, Group } from "../../api/client";
import type { SelectedRange } from "../../shared/places";
import { chosenOf, type Offer } from "./kind";
import { KINDS } from "./kinds";

/** Offers in the order of the work; those that take nothing of what is chosen say what they would take. */
export function offersFor(clips: Clip[], groups: Group[] = [], range: SelectedRange | null = null): Offer[] {
  const chosen = chosenOf(clips, groups, range);
  return Object.values(KINDS).flatMap(({ offers }) => offers(chosen));
}

/** How well an offer answers what was typed: 0 as its name begins, 1 by words of its name, 2 by others; null not at all. */
export function answers(offer: Offer, typed: string): 0 | 1 | 2 | null {
  const text = typed.trim().toLowerCase();
  const name = offer.name ?? offer.kind;
  const own = name.split(" ");
  const fits = (words: readonly string[]) =>
    text.split(/\s+/).every((part) => words.some((word) => word.startsWith(part)));
  if (name.startsWith(text)) return 0;
  if (fits(own)) return 1;
  return fits([...own, ...(offer.words ?? KINDS[offer.kind].words)]) ? 2 : null;
}
