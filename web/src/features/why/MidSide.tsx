/** Mid and side: the same plane, turned by 45 degrees. */
import { useState } from "react";
import { Value } from "../../shared/Value";
import { Figure, Listen, LivePlane, Paragraph, soundOf, useLoop } from "./parts";
import type { Matrix } from "./sound";

const HEARD: readonly (readonly [string, string, (width: number) => Matrix])[] = [
  ["stereo", "left and right", (w) => [(1 + w) / 2, (1 - w) / 2, (1 - w) / 2, (1 + w) / 2]],
  ["mid", "mid only: (L + R) / 2", () => [0.5, 0.5, 0.5, 0.5]],
  ["side", "side only: (L − R) / 2", () => [0.5, -0.5, 0.5, -0.5]],
];

export function MidSide() {
  const [width, setWidth] = useState(1);
  const { loop, playing, toggle } = useLoop();
  const change = (value: number) => {
    setWidth(value);
    const heard = HEARD.find(([id]) => id === playing);
    if (heard) loop.set(heard[2](value));
  };
  return (
    <>
      <Paragraph>
        Every moment of a stereo signal is a point in a plane: so much left, so much right. What both channels
        share lies on the vertical line between them; their difference lies across it. Measured along these
        two lines instead, the same point is so much mid and so much side. Nothing is lost and nothing is
        added: it is the plane turned by 45°.
      </Paragraph>
      <Figure picture={<LivePlane loop={loop} playing={playing !== null} />}>
        {HEARD.map(([id, name, matrix]) => (
          <Listen
            key={id}
            on={playing === id}
            onClick={() => void toggle(id, soundOf("bell"), matrix(width))}
          >
            {name}
          </Listen>
        ))}
        <Value
          label="Width of left and right"
          value={width}
          limits={{ least: 0, most: 2, usual: 1 }}
          step={0.05}
          write={(times) => (times === 0 ? "mono" : `× ${times.toFixed(2)}`)}
          onChange={change}
        />
      </Figure>
      <Paragraph>
        Two microphones do it in the air: one faces the source, the other is turned sideways and picks up left
        as plus and right as minus. Their sum is left, their difference right, and the level of the side sets
        the width, even after the recording. Fold it to mono and the side cancels completely.
      </Paragraph>
    </>
  );
}
