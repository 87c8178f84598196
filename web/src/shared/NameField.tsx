/** A name that is typed in its place: kept by Enter or by leaving it, as it was by Escape. */
import { Input } from "@chakra-ui/react";
import { useState } from "react";

type Props = { label: string; value: string; size?: "xs" | "sm"; w?: string; onKeep: (name: string) => void };

export function NameField({ label, value, onKeep, size = "xs", w = "full" }: Props) {
  const [text, setText] = useState(value);
  return (
    <Input
      size={size}
      w={w}
      autoFocus
      maxLength={200}
      value={text}
      aria-label={label}
      onChange={(event) => setText(event.target.value)}
      onBlur={() => onKeep(text.trim())}
      onKeyDown={(event) => {
        if (event.key === "Escape") {
          event.stopPropagation();
          onKeep(value);
        }
        if (event.key !== "Enter") return;
        // Else the same press would also push the button that has the focus next.
        event.preventDefault();
        onKeep(text.trim());
      }}
    />
  );
}
