/** A hush in its list: its channel, from and to, and how deep it is. */
import { Flex, Text } from "@chakra-ui/react";
import { clock } from "../../../shared/format";
import { depthText, type Hush, spanOf } from "../hushes";

export const ROW = 28; // pixels

type Props = {
  id: string;
  top: number;
  number: number;
  of: number;
  hush: Hush;
  name: string;
  rate: number;
  selected: boolean;
  onClick: () => void;
};

export function HushRow({ id, top, number, of, hush, name, rate, selected, onClick }: Props) {
  const [start, end] = spanOf(hush, rate);
  const color = name === "left" || name === "right" ? name : "fg";
  return (
    <Flex
      id={id}
      role="option"
      aria-selected={selected}
      aria-posinset={number}
      aria-setsize={of}
      position="absolute"
      style={{ top, height: ROW }}
      insetX={0}
      px={2}
      gap={2}
      align="center"
      borderRadius="md"
      cursor="default"
      fontSize="xs"
      bg={selected ? "raised" : "transparent"}
      _hover={{ bg: "raised" }}
      onClick={onClick}
    >
      <Text color={color} fontWeight={700} w="4.5em" truncate flexShrink={0}>
        {name}
      </Text>
      <Text fontFamily="mono" flex={1} whiteSpace="nowrap">
        {clock(start / rate)}–{clock(end / rate)}
      </Text>
      <Text fontFamily="mono" color="fg.quiet" whiteSpace="nowrap">
        {depthText(hush.gain_db)}
      </Text>
    </Flex>
  );
}
