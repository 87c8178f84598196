/** Settings as fields: each control with a label that belongs to it, or a group of them with a legend. */
import {
  Checkbox,
  Fieldset,
  Flex,
  Field as Labelled,
  NativeSelect,
  RadioGroup,
  Text,
} from "@chakra-ui/react";
import type { ReactNode } from "react";

/** One control and its label; `value` is written beside the label. */
export function Field({ label, value, children }: { label: string; value?: ReactNode; children: ReactNode }) {
  return (
    <Labelled.Root gap={1}>
      <Flex justify="space-between" gap={2} w="full">
        <Labelled.Label>{label}</Labelled.Label>
        {value !== undefined && <Text textStyle="figure">{value}</Text>}
      </Flex>
      {children}
    </Labelled.Root>
  );
}

/** Several controls under one legend; each of them says what it is by itself. */
export function FieldGroup({ label, children }: { label: string; children: ReactNode }) {
  return (
    <Fieldset.Root spaceY={1}>
      <Fieldset.Legend>{label}</Fieldset.Legend>
      {children}
    </Fieldset.Root>
  );
}

/** Each value with what it is called, in the order they are offered. */
export type Options<T extends string> = readonly (readonly [T, string])[];

type SelectProps<T extends string> = {
  label: string;
  value: T | undefined;
  options: Options<T>;
  onChange: (value: T) => void;
  size?: "xs" | "sm";
  width?: string;
  /** A field around it has the label. */
  labelled?: boolean;
};

/** One of a few values. */
export function Select<T extends string>(props: SelectProps<T>) {
  const { label, value, options, onChange, size = "xs", width = "full", labelled = false } = props;
  return (
    <NativeSelect.Root size={size} w={width}>
      <NativeSelect.Field
        aria-label={labelled ? undefined : label}
        value={value}
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

export function SelectField<T extends string>(props: SelectProps<T>) {
  return (
    <Field label={props.label}>
      <Select {...props} labelled />
    </Field>
  );
}

export function Toggle(props: { label: string; on: boolean; onChange: (on: boolean) => void }) {
  return (
    <Checkbox.Root checked={props.on} onCheckedChange={(change) => props.onChange(change.checked === true)}>
      <Checkbox.HiddenInput />
      <Checkbox.Control />
      <Checkbox.Label>{props.label}</Checkbox.Label>
    </Checkbox.Root>
  );
}

type RadioProps<T extends string> = {
  label: string;
  value: T;
  options: Options<T>;
  /** What is written at the end of an option's row. */
  beside: (value: T) => ReactNode;
  onChange: (value: T) => void;
};

/** One of a few values, all of them in sight. */
export function RadioField<T extends string>({ label, value, options, beside, onChange }: RadioProps<T>) {
  return (
    <RadioGroup.Root
      display="flex"
      flexDirection="column"
      value={value}
      onValueChange={(change) => change.value && onChange(change.value as T)}
    >
      <RadioGroup.Label>{label}</RadioGroup.Label>
      {options.map(([one, text]) => (
        <RadioGroup.Item key={one} value={one}>
          <RadioGroup.ItemHiddenInput />
          <RadioGroup.ItemIndicator />
          <RadioGroup.ItemText>{text}</RadioGroup.ItemText>
          <Text layerStyle="figures">{beside(one)}</Text>
        </RadioGroup.Item>
      ))}
    </RadioGroup.Root>
  );
}
