/** The blocks of samples that a mixer holds of In or Out. */
import type { SideSetup } from "./messages";

export type Block = {
  clip: string;
  key: string;
  channels: number;
  data: Float32Array;
  /** The block of an earlier setting that this one replaces, if that is what was heard until here. */
  before: Block | null;
};
export type Held = SideSetup & { blocks: Map<number, Block> };
export const nothing = (): Held => ({ clip: "", key: "", channels: 0, gains: [], blocks: new Map() });

/**
 * What is kept of the blocks of one setup for the next. Old samples of the same clip sound on until the new ones come,
 * but only where they are being heard: from block `now` on, null where nothing plays.
 */
export function blocksToKeep(old: Held, next: SideSetup, now: number | null): Map<number, Block> {
  if (old.clip !== next.clip || old.channels !== next.channels) return new Map();
  if (old.key === next.key) return old.blocks;
  return now === null ? new Map() : new Map([...old.blocks].filter(([index]) => index >= now));
}

/** Whether two setups differ in their samples at the most: those are faded to when they arrive. */
export const sameClipAndGains = (old: SideSetup, next: SideSetup) =>
  old.clip === next.clip && old.channels === next.channels && String(old.gains) === String(next.gains);

/** A block has been begun: what it replaced is not needed any more, nor are old samples behind it. */
export function dropPassed({ blocks, key }: Held, index: number) {
  for (const [other, block] of blocks) {
    if (other === index) block.before = null;
    if (other < index && block.key !== key) blocks.delete(other);
  }
}
