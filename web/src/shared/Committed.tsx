import { Box, Input, Text } from "@chakra-ui/react";
import { useEffect, useState } from "react";

type Props = {
  label: string;
  value: string;
  onCommit: (text: string) => void;
  /** Why a text can't be taken, or null. */
  refuse?: (text: string) => string | null;
  /** A number with its unit, beside its label. */
  figure?: boolean;
  /** The arrows up and down, with Shift in large steps. */
  onStep?: (by: 1 | -1, large: boolean) => void;
};

const FIGURE = { fontFamily: "mono", textAlign: "right", px: 2 } as const;

/**
 * A text that counts when it is left or Enter is pressed, not at every letter; Escape takes it back, and where there is
 * nothing to take back leaves it. One that can't be taken goes back to what holds, and it is said why.
 */
export function Committed({ label, value, onCommit, refuse = () => null, figure = false, onStep }: Props) {
  const [text, setText] = useState(value);
  const [refused, setRefused] = useState<string | null>(null);
  useEffect(() => setText(value), [value]);
  const commit = () => {
    const why = text.trim() && text !== value ? refuse(text) : null;
    setRefused(why);
    if (text.trim() && text !== value && !why) onCommit(text);
    else setText(value);
  };
  return (
    <Box flex={1}>
      <Input
        size={figure ? "2xs" : "xs"}
        {...(figure && FIGURE)}
        aria-label={label}
        value={text}
        maxLength={150}
        onChange={(event) => {
          setText(event.target.value);
          setRefused(null);
        }}
        onFocus={(event) => figure && event.currentTarget.select()}
        onBlur={commit}
        onKeyDown={(event) => {
          if (onStep && (event.key === "ArrowUp" || event.key === "ArrowDown")) {
            event.preventDefault();
            onStep(event.key === "ArrowUp" ? 1 : -1, event.shiftKey);
          }
          // The focus stays: the next value is typed over this one.
          if (event.key === "Enter") {
            commit();
            event.currentTarget.select();
          }
          if (event.key === "Escape" && text !== value) setText(value);
          else if (event.key === "Escape") event.currentTarget.blur();
        }}
      />
      {refused && (
        <Text layerStyle="danger" textStyle="small" role="alert">
          {refused}
        </Text>
      )}
    </Box>
  );
}
