/** An input of a line. Another clip that is dropped on it takes its place. */
import { Box } from "@chakra-ui/react";
import { type DragEvent, useState } from "react";
import { Chip } from "../../shared/chips";
import { draggedClip, isClipDrag } from "../../shared/clipDrag";

type Props = { name: string; missing: boolean; onDrop: (ref: string) => void };

export function InputChip({ name, missing, onDrop }: Props) {
  const [over, setOver] = useState(false);
  const allow = (event: DragEvent) => {
    if (!isClipDrag(event)) return;
    event.preventDefault();
    setOver(true);
  };
  return (
    <Box
      display="inline-flex"
      minW={0}
      layerStyle="dropTarget"
      data-missing={missing || undefined}
      data-over={over || undefined}
      onDragEnter={allow}
      onDragOver={allow}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        const ref = draggedClip(event);
        setOver(false);
        if (ref === null) return;
        event.preventDefault();
        onDrop(ref);
      }}
    >
      <Chip name={missing ? `${name}?` : name} title={missing ? `${name} is missing` : name} />
    </Box>
  );
}
