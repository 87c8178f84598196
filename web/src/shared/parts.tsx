/** Small parts that several views are made of. */
import { Box, Button, type ButtonProps, Checkbox, Flex, NativeSelect, Text } from "@chakra-ui/react";
import { Fragment, type MouseEvent, type ReactNode } from "react";

/** Pressed with the mouse, such a button leaves the keys with the page: Space then plays and does not press again. */
export const leavesKeys = { onMouseDown: (event: MouseEvent) => event.preventDefault() };

/** The one next thing to do on a screen. */
export function PrimaryButton(props: ButtonProps) {
  return <Button size="sm" bg="fg" color="ground" fontWeight={600} _hover={{ bg: "fg/90" }} {...props} />;
}

export function QuietButton(props: ButtonProps) {
  return (
    <Button size="xs" variant="ghost" color="fg.quiet" _hover={{ bg: "raised", color: "fg" }} {...props} />
  );
}

/** Something that can be done here and now, beside the one next thing. */
export function OfferButton(props: ButtonProps) {
  return (
    <Button
      {...leavesKeys}
      size="xs"
      variant="outline"
      borderColor="fg.quiet"
      color="fg"
      _hover={{ bg: "raised.high" }}
      {...props}
    />
  );
}

/** The pane on the right, about what is chosen. */
export function AsidePane({ label, children }: { label: string; children: ReactNode }) {
  return (
    <Flex
      as="aside"
      aria-label={label}
      direction="column"
      gap={3}
      w="300px"
      flexShrink={0}
      borderLeftWidth={1}
      borderColor="line"
      p={4}
      pt={3}
      overflowY="auto"
    >
      {children}
    </Flex>
  );
}

export function PaneTitle({ children, right }: { children: ReactNode; right?: ReactNode }) {
  return (
    <Flex align="center" justify="space-between" minH={8} gap={2}>
      <Text as="h2" fontSize="sm" fontWeight={600} color="fg.quiet">
        {children}
      </Text>
      {right}
    </Flex>
  );
}

/** What is said where there is nothing to show; `page` where that is all there is on the page. */
export function Empty({ title, page, children }: { title: string; page?: boolean; children: ReactNode }) {
  return (
    <Flex
      direction="column"
      align="center"
      justify="center"
      textAlign="center"
      gap={2}
      p={6}
      flex={1}
      color="fg.quiet"
    >
      <Text as={page ? "h1" : "p"} color="fg" fontWeight={600}>
        {title}
      </Text>
      <Box fontSize="sm" maxW="36ch">
        {children}
      </Box>
    </Flex>
  );
}

type SelectProps<T extends string> = {
  label: string;
  value: T | undefined;
  /** Each value with what it is called, in the order they are offered. */
  options: readonly (readonly [T, string])[];
  onChange: (value: T) => void;
  size?: "xs" | "sm";
  width?: string;
};

/** One of a few values. */
export function Select<T extends string>(props: SelectProps<T>) {
  const { label, value, options, onChange, size = "xs", width = "full" } = props;
  return (
    <NativeSelect.Root size={size} w={width}>
      <NativeSelect.Field
        aria-label={label}
        value={value}
        bg="raised"
        borderColor="line"
        onChange={(event) => onChange(event.target.value as T)}
      >
        {options.map(([one, text]) => (
          <option key={one} value={one}>
            {text}
          </option>
        ))}
      </NativeSelect.Field>
      <NativeSelect.Indicator />
    </NativeSelect.Root>
  );
}

export function Field({ label, value, children }: { label: string; value?: ReactNode; children: ReactNode }) {
  return (
    <Flex direction="column" gap={1}>
      <Flex fontSize="xs" color="fg.quiet" justify="space-between" gap={2}>
        <Text>{label}</Text>
        {value !== undefined && (
          <Text fontFamily="mono" color="fg">
            {value}
          </Text>
        )}
      </Flex>
      {children}
    </Flex>
  );
}

type RangeProps = {
  label: string;
  value: number;
  min: number;
  max: number;
  step: number;
  /** How the value is written. */
  shown: string;
  onChange: (value: number) => void;
  disabled?: boolean;
};

/** A value along a line: dragged, clicked, or moved by the arrow keys. */
export function Range({ label, value, min, max, step, shown, onChange, disabled }: RangeProps) {
  return (
    <Field label={label} value={shown}>
      <input
        type="range"
        className="range"
        aria-label={label}
        aria-valuetext={shown}
        min={min}
        max={max}
        step={step}
        value={value}
        disabled={disabled}
        onChange={(event) => onChange(Number(event.target.value))}
      />
    </Field>
  );
}

export function Toggle(props: { label: string; on: boolean; onChange: (on: boolean) => void }) {
  return (
    <Checkbox.Root
      size="sm"
      checked={props.on}
      onCheckedChange={(change) => props.onChange(change.checked === true)}
    >
      <Checkbox.HiddenInput aria-label={props.label} />
      <Checkbox.Control />
      <Checkbox.Label fontWeight={400}>{props.label}</Checkbox.Label>
    </Checkbox.Root>
  );
}

/** A name and its figure, line by line. */
export function Facts({ facts }: { facts: readonly (readonly [string, ReactNode])[] }) {
  return (
    <Box as="dl" display="grid" gridTemplateColumns="auto 1fr" columnGap={3} rowGap={0.5} fontSize="xs">
      {facts.map(([name, value]) => (
        <Fragment key={name}>
          <Text as="dt" color="fg.quiet">
            {name}
          </Text>
          <Text as="dd" fontFamily="mono" textAlign="right" truncate>
            {value}
          </Text>
        </Fragment>
      ))}
    </Box>
  );
}

/** A few choices that stand together; one of them holds. */
export function Choices({ label, children }: { label: string; children: ReactNode }) {
  return (
    <Flex role="group" aria-label={label} bg="raised" borderRadius="md" p={0.5} gap={0.5} flexShrink={0}>
      {children}
    </Flex>
  );
}

export function Choice(props: {
  chosen: boolean;
  disabled?: boolean;
  title: string;
  onClick: () => void;
  children: ReactNode;
}) {
  return (
    <Button
      {...leavesKeys}
      size="xs"
      variant="ghost"
      aria-pressed={props.chosen}
      disabled={props.disabled ?? false}
      title={props.title}
      onClick={props.onClick}
      color={props.chosen ? "fg" : "fg.quiet"}
      bg={props.chosen ? "raised.high" : "transparent"}
      fontWeight={props.chosen ? 600 : 400}
      flexShrink={0}
      px={2}
    >
      {props.children}
    </Button>
  );
}
