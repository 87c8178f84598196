/** A few choices that stand together, and a button that stays pressed. */
import { Button, SegmentGroup } from "@chakra-ui/react";
import type { MouseEvent, ReactNode } from "react";
import { keepsFocus } from "./parts";
import { Tip } from "./Tip";

type Props<T extends string> = {
  label: string;
  value: T;
  options: readonly { value: T; text: string; tip: string; disabled?: boolean }[];
  onChange: (value: T) => void;
};

/** One of a few; a click leaves the keys with the page. */
export function Choices<T extends string>({ label, value, options, onChange }: Props<T>) {
  return (
    <SegmentGroup.Root
      aria-label={label}
      size="xs"
      value={value}
      onValueChange={(change) => change.value && onChange(change.value as T)}
      layerStyle="panel"
      p={1}
      gap={1}
      flexShrink={0}
    >
      {options.map((one) => {
        const click = (event: MouseEvent) => {
          // Taken here, so that the focus does not go to the choice; arrow keys come as clicks without a pointer.
          if (event.detail === 0 || one.disabled) return;
          event.preventDefault();
          onChange(one.value);
        };
        return (
          <Tip key={one.value} text={one.tip}>
            <SegmentGroup.Item
              {...keepsFocus}
              value={one.value}
              disabled={one.disabled ?? false}
              onClick={click}
              h={6}
              px={2}
              flexShrink={0}
              transition="none"
              layerStyle="choice"
              data-chosen={one.value === value || undefined}
              _before={{ display: "none" }}
            >
              <SegmentGroup.ItemText>{one.text}</SegmentGroup.ItemText>
              <SegmentGroup.ItemHiddenInput />
            </SegmentGroup.Item>
          </Tip>
        );
      })}
    </SegmentGroup.Root>
  );
}

type PressedProps = {
  pressed: boolean;
  disabled?: boolean;
  tip: string;
  onClick: () => void;
  children: ReactNode;
};

/** A button that is on or off. */
export function PressedButton({ pressed, disabled, tip, onClick, children }: PressedProps) {
  return (
    <Tip text={tip}>
      <Button
        {...keepsFocus}
        size="xs"
        variant="ghost"
        aria-pressed={pressed}
        disabled={disabled ?? false}
        onClick={onClick}
        flexShrink={0}
        px={2}
      >
        {children}
      </Button>
    </Tip>
  );
}
