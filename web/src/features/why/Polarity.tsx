/** Polarity and correlation: two waves that add up, or that add up to silence. */
import { Text } from "@chakra-ui/react";
import { useState } from "react";
import { useSines } from "../../api/queries";
import { correlation, decibels, gainText } from "../../shared/format";
import { Facts, SecondaryButton } from "../../shared/parts";
import { Value } from "../../shared/Value";
import { Figure, Listen, Paragraph, useLoop } from "./parts";

const [WIDTH, HEIGHT] = [360, 230];
const RATE = 48_000;
const HERTZ = 240;

/** Both sines as the sides of a sound: what one ear would get from either. */
function sines(degrees: number, gain: number): Float32Array {
  const samples = new Float32Array(2 * RATE);
  for (let n = 0; n < RATE; n++) {
    const turn = (2 * Math.PI * HERTZ * n) / RATE;
    samples[2 * n] = 0.2 * Math.sin(turn);
    samples[2 * n + 1] = 0.2 * gain * Math.sin(turn - (degrees * Math.PI) / 180);
  }
  return samples;
}

export function Polarity() {
  const [degrees, setDegrees] = useState(180);
  const [gain, setGain] = useState(0);
  const { loop, playing, toggle } = useLoop();
  const waves = useSines(degrees, gain).data;
  const factor = 10 ** (gain / 20);
  const change = (nextDegrees: number, nextGain: number) => {
    setDegrees(nextDegrees);
    setGain(nextGain);
    if (playing === "both") void loop.play(sines(nextDegrees, 10 ** (nextGain / 20)), [1, 1, 1, 1]);
  };
  const path = (points: readonly number[], row: number) =>
    points
      .map(
        (y, n) => `${n ? "L" : "M"}${((n / points.length) * WIDTH).toFixed(1)} ${(row - y * 22).toFixed(1)}`,
      )
      .join("");
  return (
    <>
      <Paragraph>
        A microphone turns pressure into a voltage. Wired the wrong way, every push becomes a pull: its
        polarity is inverted. Alone it sounds the same. Together with another microphone on the same sound,
        what one adds the other cancels.
      </Paragraph>
      <Figure
        picture={
          <svg width={WIDTH} height={HEIGHT} role="img" aria-label="Two waves and their sum">
            {waves && (
              <>
                <path
                  d={path(waves.one, 36)}
                  fill="none"
                  stroke="var(--chakra-colors-left)"
                  strokeWidth={2}
                />
                <path
                  d={path(waves.two, 104)}
                  fill="none"
                  stroke="var(--chakra-colors-right)"
                  strokeWidth={2}
                  strokeDasharray="6 4"
                />
                <path
                  d={path(waves.both, 180)}
                  fill="none"
                  stroke="var(--chakra-colors-fg)"
                  strokeWidth={2.5}
                />
              </>
            )}
            {(
              [
                ["wave 1", 12],
                ["wave 2", 74],
                ["sum", 140],
              ] as const
            ).map(([name, y]) => (
              <text key={name} x={2} y={y} fontSize={12} fill="var(--chakra-colors-fg-quiet)">
                {name}
              </text>
            ))}
          </svg>
        }
      >
        <Value
          label="Phase offset"
          value={degrees}
          limits={{ least: 0, most: 180, usual: 0 }}
          step={1}
          write={(angle) => `${angle}°`}
          onChange={(value) => change(value, gain)}
        />
        <Value
          label="Level of wave 2"
          value={gain}
          limits={{ least: -12, most: 12, usual: 0 }}
          step={0.1}
          write={gainText}
          onChange={(value) => change(degrees, value)}
        />
        <Facts
          facts={[
            ["correlation", correlation(waves?.correlation)],
            [
              "sum relative to one wave",
              waves?.sum_db === null ? "silence" : decibels(waves?.sum_db, "dB", 2),
            ],
          ]}
        />
        <Listen
          on={playing === "wave 1"}
          onClick={() => void toggle("wave 1", async () => sines(degrees, factor), [1, 0, 1, 0])}
        >
          wave 1
        </Listen>
        <Listen
          on={playing === "both"}
          onClick={() => void toggle("both", async () => sines(degrees, factor), [1, 1, 1, 1])}
        >
          sum of both
        </Listen>
        <SecondaryButton onClick={() => change(degrees === 180 ? 0 : 180, gain)}>
          invert wave 2
        </SecondaryButton>
      </Figure>
      <Paragraph>
        Correlation says how alike two signals are: +1 is identical, 0 uncorrelated, −1 identical with one
        inverted. A meter that stays below zero is the sign of an inverted channel; invert one and the level
        comes back.
      </Paragraph>
      <Text layerStyle="quiet">
        With a level difference of a tenth of a decibel, two opposite waves still leave −38.8 dB; one degree
        of phase leaves −35.2 dB. Only identical signals cancel completely.
      </Text>
    </>
  );
}
