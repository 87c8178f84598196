import { Input } from "@chakra-ui/react";
import { useEffect, useState } from "react";

/** A text that counts when it is left or Enter is pressed, not at every letter; Escape takes it back. */
export function Committed({
  label,
  value,
  onCommit,
}: {
  label: string;
  value: string;
  onCommit: (text: string) => void;
}) {
  const [text, setText] = useState(value);
  useEffect(() => setText(value), [value]);
  return (
    <Input
      size="xs"
      aria-label={label}
      value={text}
      maxLength={150}
      bg="raised"
      borderColor="line"
      onChange={(event) => setText(event.target.value)}
      onBlur={() => (text.trim() && text !== value ? onCommit(text) : setText(value))}
      onKeyDown={(event) => {
        if (event.key === "Enter") event.currentTarget.blur();
        if (event.key === "Escape") setText(value);
      }}
    />
  );
}
