/** Frequencies written along an axis, as far as the rate reaches. */
import { Text, type TextProps } from "@chakra-ui/react";

type Props = { ticks: readonly number[]; rate: number; place: (hertz: number) => TextProps };

export function FrequencyLabels({ ticks, rate, place }: Props) {
  return ticks
    .filter((hertz) => hertz < rate / 2.1)
    .map((hertz) => (
      <Text key={hertz} position="absolute" layerStyle="note" pointerEvents="none" {...place(hertz)}>
        {hertz < 1000 ? hertz : `${hertz / 1000}k`}
      </Text>
    ));
}
