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
      textStyle="small"
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
      cursor="default"
      layerStyle="pick"
      _hover={{ bg: "raised" }}
      onClick={onClick}
    >
      <Text textStyle="strong" color={color} w="4.5em" truncate flexShrink={0}>
        {name}
      </Text>
      <Text textStyle="mono" flex={1} whiteSpace="nowrap">
        {clock(start / rate)}–{clock(end / rate)}
      </Text>
      <Text layerStyle="quiet" textStyle="mono" whiteSpace="nowrap">
        {depthText(hush.gain_db)}
      </Text>
    </Flex>
  );
}
