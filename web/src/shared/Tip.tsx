/** What a control does and by which key, shown to the mouse that rests on it and to the focus that comes by keyboard. */
import { Portal, Tooltip } from "@chakra-ui/react";
import type { ReactElement } from "react";

export function Tip({ text, children }: { text: string; children: ReactElement }) {
  return (
    <Tooltip.Root openDelay={500} closeDelay={0} lazyMount unmountOnExit>
      <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
      <Portal>
        <Tooltip.Positioner>
          <Tooltip.Content layerStyle="floating">{text}</Tooltip.Content>
        </Tooltip.Positioner>
      </Portal>
    </Tooltip.Root>
  );
}
