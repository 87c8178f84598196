/** A clip that is dragged from one place of the page to another, by its reference. */
import type { DragEvent } from "react";

const TYPE = "application/x-wedge-turn-clip";

/** What makes an element one that a clip is dragged by. */
export const dragsClip = (ref: string) => ({
  draggable: true,
  onDragStart: (event: DragEvent) => {
    event.dataTransfer.setData(TYPE, ref);
    event.dataTransfer.effectAllowed = "link";
  },
});

export const isClipDrag = (event: DragEvent) => event.dataTransfer.types.includes(TYPE);

export const draggedClip = (event: DragEvent): string | null => event.dataTransfer.getData(TYPE) || null;
