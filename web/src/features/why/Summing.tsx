/** Mono summing: what × ½, × 0.7071 and × 1 do, and to what. */
import { Box } from "@chakra-ui/react";
import { useLaws } from "../../api/queries";
import { decibels } from "../../shared/format";
import { Figure, Listen, LivePlane, Paragraph, soundOf, useLoop } from "./parts";

const LAWS = [
  ["average", "× ½", 0.5],
  ["power", "× 0.7071", Math.SQRT1_2],
  ["full", "× 1", 1],
] as const;
const SOUNDS = {
  same: "the same note in both channels",
  unrelated: "a different note in each channel",
} as const;

export function Summing() {
  const { loop, playing, toggle } = useLoop();
  const laws = useLaws().data;
  return (
    <>
      <Paragraph>
        Fold a stereo file to mono, and someone has to decide how loud the sum should be. There is no right
        answer, because it depends on what the channels share: identical channels add up to twice the
        amplitude, 6.02 dB; uncorrelated ones to twice the power, 3.01 dB.
      </Paragraph>
      <Figure picture={<LivePlane loop={loop} playing={playing !== null} />}>
        <Box as="table" aria-label="Level of the sum relative to one channel">
          <thead>
            <tr>
              <td />
              {LAWS.map(([law, name]) => (
                <Box as="th" key={law} px={3} textAlign="right">
                  {name}
                </Box>
              ))}
            </tr>
          </thead>
          <tbody>
            {laws?.map(({ sound, levels }) => (
              <tr key={sound}>
                <Box layerStyle="quiet" as="td" pr={3}>
                  {SOUNDS[sound as keyof typeof SOUNDS]}
                </Box>
                {LAWS.map(([law]) => (
                  <Box textStyle="mono" as="td" key={law} px={3} py={1} textAlign="right">
                    {decibels(levels[law], "dB", 2)}
                  </Box>
                ))}
              </tr>
            ))}
          </tbody>
        </Box>
        <Box display="grid" gridTemplateColumns="repeat(3, 1fr)" gap={2}>
          {(Object.keys(SOUNDS) as (keyof typeof SOUNDS)[]).map((sound) =>
            LAWS.map(([law, name, k]) => (
              <Listen
                key={sound + law}
                on={playing === sound + law}
                onClick={() => void toggle(sound + law, soundOf(sound), [k, k, k, k])}
              >
                {sound === "same" ? "same" : "different"} {name}
              </Listen>
            )),
          )}
        </Box>
      </Figure>
      <Paragraph>
        × ½ keeps the centre at its level and can’t clip; what is in one channel only becomes 6 dB quieter. ×
        0.7071 keeps the energy of uncorrelated channels. × 1 turns nothing down, and clips soonest. Programs
        that pan and fold use one of these without saying so; here it is always stated.
      </Paragraph>
    </>
  );
}
