/** Laws of summing: what × ½, × 0.7071 and × 1 do, and to what. */
import { Box } from "@chakra-ui/react";
import { useLaws } from "../../api/queries";
import { decibels } from "../../shared/format";
import { Figure, Listen, LivePlane, Paragraph, soundOf, useLoop } from "./parts";

const LAWS = [
  ["average", "× ½", 0.5],
  ["power", "× 0.7071", Math.SQRT1_2],
  ["full", "× 1", 1],
] as const;
const SOUNDS = { same: "the same note in both sides", unrelated: "another note in each side" } as const;

export function Summing() {
  const { loop, playing, toggle } = useLoop();
  const laws = useLaws().data;
  return (
    <>
      <Paragraph>
        Fold a stereo file to mono, and somebody has to say how loud the sum shall be. There is no right
        answer, because it depends on what both sides share: equal sides add up to twice the amplitude, 6.02
        dB; unrelated ones to twice the power, 3.01 dB.
      </Paragraph>
      <Figure picture={<LivePlane loop={loop} playing={playing !== null} />}>
        <Box as="table" fontSize="sm" aria-label="Level of the sum over one side">
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
                <Box as="td" color="fg.quiet" pr={3}>
                  {SOUNDS[sound as keyof typeof SOUNDS]}
                </Box>
                {LAWS.map(([law]) => (
                  <Box as="td" key={law} px={3} py={1} textAlign="right" fontFamily="mono">
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
                {sound === "same" ? "same" : "another"} {name}
              </Listen>
            )),
          )}
        </Box>
      </Figure>
      <Paragraph>
        × ½ keeps what both sides share at its level, and cannot clip; what is in one side alone becomes 6 dB
        quieter. × 0.7071 keeps the energy of what they do not share. × 1 takes nothing away, and clips
        soonest. Programs that pan and fold do one of these without saying so; here it is always said, and
        nothing else is done.
      </Paragraph>
    </>
  );
}
