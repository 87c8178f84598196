/** Every kind of turn, in the order of the work. A kind that is missing, or that lacks something, does not compile. */
import type { Kind } from "../../../api/turns";
import type { TurnKind } from "../kind";
import { align } from "./align";
import { centre } from "./centre";
import { dc } from "./dc";
import { decode } from "./decode";
import { encode } from "./encode";
import { fold } from "./fold";
import { level } from "./level";
import { matrix } from "./matrix";
import { merge } from "./merge";
import { polarity } from "./polarity";
import { resample } from "./resample";
import { split } from "./split";
import { sum } from "./sum";
import { swap } from "./swap";
import { trim } from "./trim";
import { width } from "./width";

export const KINDS: { [K in Kind]: TurnKind<K> } = {
  merge,
  split,
  swap,
  polarity,
  fold,
  encode,
  decode,
  width,
  matrix,
  sum,
  level,
  dc,
  centre,
  align,
  trim,
  resample,
};

/** The kind of a turn. The compiler can't see that it takes this very turn; the table above is what makes it so. */
export const kindOf = (turn: { kind: Kind }) => KINDS[turn.kind] as unknown as TurnKind<Kind>;
