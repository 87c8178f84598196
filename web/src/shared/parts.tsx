/** Small parts that several views are made of. */
import { Box, Button, type ButtonProps, Flex, Text } from "@chakra-ui/react";
import { Fragment, type MouseEvent, type ReactNode } from "react";
import { toSentenceCase } from "./sentenceCase";

/** Pressed with the mouse, such a button leaves the keys with the page: Space then plays and does not press again. */
export const keepsFocus = { onMouseDown: (event: MouseEvent) => event.preventDefault() };

/** The one next thing to do on a screen. */
export function PrimaryButton({ children, ...props }: ButtonProps) {
  return (
    <Button size="sm" {...props}>
      {toSentenceCase(children)}
    </Button>
  );
}

export function QuietButton({ children, ...props }: ButtonProps) {
  return (
    <Button variant="ghost" {...props}>
      {toSentenceCase(children)}
    </Button>
  );
}

/** Something that can be done here and now, beside the one next thing. */
export function SecondaryButton({ children, ...props }: ButtonProps) {
  return (
    <Button {...keepsFocus} variant="outline" {...props}>
      {toSentenceCase(children)}
    </Button>
  );
}

/** The pane on the right, about what is chosen. */
export function AsidePane({ label, id, children }: { label: string; id?: string; children: ReactNode }) {
  return (
    <Flex
      as="aside"
      aria-label={label}
      id={id}
      // It may be given the keys, which are then those of the page.
      tabIndex={-1}
      layerStyle="aside"
      direction="column"
      gap={3}
      w={{ base: "full", lg: "264px", xl: "300px", "2xl": "360px" }}
      flexShrink={0}
      p={4}
      pt={3}
      overflowY={{ lg: "auto" }}
    >
      {children}
    </Flex>
  );
}

export function PaneTitle({ children, right }: { children: ReactNode; right?: ReactNode }) {
  return (
    <Flex align="center" justify="space-between" minH={8} gap={2}>
      <Text layerStyle="quiet" textStyle="strong" as="h2">
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
      layerStyle="quiet"
      direction="column"
      align="center"
      justify="center"
      textAlign="center"
      gap={2}
      p={6}
      flex={1}
    >
      <Text layerStyle="plain" textStyle="strong" as={page ? "h1" : "p"}>
        {title}
      </Text>
      <Box maxW="36ch">{children}</Box>
    </Flex>
  );
}

/** A name and its figure, line by line. */
export function Facts({ facts }: { facts: readonly (readonly [string, ReactNode])[] }) {
  return (
    <Box textStyle="small" as="dl" display="grid" gridTemplateColumns="auto 1fr" columnGap={3} rowGap={1}>
      {facts.map(([name, value]) => (
        <Fragment key={name}>
          <Text layerStyle="quiet" as="dt">
            {name}
          </Text>
          <Text textStyle="mono" as="dd" textAlign="right" minW={0} overflowWrap="anywhere">
            {value}
          </Text>
        </Fragment>
      ))}
    </Box>
  );
}
