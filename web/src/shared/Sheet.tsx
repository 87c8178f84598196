/** A dialog over the page, closed by its button, by Escape, or by a click beside it. */
import { CloseButton, Dialog, Portal } from "@chakra-ui/react";
import type { ReactNode } from "react";

type Props = {
  title: string;
  open: boolean;
  onClose: () => void;
  /** An alert asks before something is done that cannot be undone. */
  alert?: boolean;
  footer?: ReactNode;
  /** Where the keys go when it closes, where that is not back to where they came from. */
  finalFocus?: () => HTMLElement | null;
  children: ReactNode;
};

export function Sheet({ title, open, onClose, alert = false, footer, finalFocus, children }: Props) {
  return (
    <Dialog.Root
      role={alert ? "alertdialog" : "dialog"}
      open={open}
      onOpenChange={(change) => !change.open && onClose()}
      placement="top"
      {...(finalFocus && { finalFocusEl: finalFocus })}
      scrollBehavior="inside"
      size={alert ? "sm" : "lg"}
    >
      <Portal>
        <Dialog.Backdrop />
        <Dialog.Positioner>
          <Dialog.Content>
            <Dialog.Header>
              <Dialog.Title>{title}</Dialog.Title>
            </Dialog.Header>
            <Dialog.Body
              tabIndex={0}
              _focusVisible={{ outline: "1px solid {colors.line}", outlineOffset: "-1px" }}
            >
              {children}
            </Dialog.Body>
            {footer && <Dialog.Footer>{footer}</Dialog.Footer>}
            <Dialog.CloseTrigger asChild>
              <CloseButton size="sm" aria-label="Close" />
            </Dialog.CloseTrigger>
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  );
}
