/** Asks before something is deleted that does not come back. */
import type { ReactNode } from "react";
import { PrimaryButton, QuietButton } from "./parts";
import { Sheet } from "./Sheet";

type Props = {
  title: string;
  open: boolean;
  onClose: () => void;
  onDelete: () => void;
  children: ReactNode;
};

export function ConfirmDelete({ title, open, onClose, onDelete, children }: Props) {
  return (
    <Sheet
      alert
      title={title}
      open={open}
      onClose={onClose}
      footer={
        <>
          <QuietButton onClick={onClose}>Cancel</QuietButton>
          <PrimaryButton
            colorPalette="red"
            onClick={() => {
              onClose();
              onDelete();
            }}
          >
            Delete
          </PrimaryButton>
        </>
      }
    >
      {children}
    </Sheet>
  );
}
