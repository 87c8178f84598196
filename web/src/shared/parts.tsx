/** Small parts that several views are made of. */
import { Box, Button, type ButtonProps, Flex, NativeSelect, Text } from "@chakra-ui/react";
import type { ReactNode } from "react";

/** The one next thing to do on a screen. */
export function PrimaryButton(props: ButtonProps) {
  return <Button size="sm" bg="fg" color="ground" fontWeight={600} _hover={{ bg: "fg/90" }} {...props} />;
}

export function QuietButton(props: ButtonProps) {
  return (
    <Button size="xs" variant="ghost" color="fg.quiet" _hover={{ bg: "raised", color: "fg" }} {...props} />
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

/** The name of a clip. */
export function Chip({ children, title }: { children: ReactNode; title?: string }) {
  return (
    <Box
      as="span"
      title={title}
      px={2}
      py={0.5}
      bg="raised.high"
      borderRadius="md"
      truncate
      minW={0}
      display="inline-block"
    >
      {children}
    </Box>
  );
}

export function KeyCap({ children }: { children: ReactNode }) {
  return (
    <Box
      as="kbd"
      px={1.5}
      py={0.5}
      bg="raised.high"
      borderRadius="sm"
      fontSize="xs"
      fontFamily="mono"
      color="fg.quiet"
    >
      {children}
    </Box>
  );
}

export function Empty({ title, children }: { title: string; children: ReactNode }) {
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
      <Text color="fg" fontWeight={600}>
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
