/** Taking the centre out: why it works, what goes with it, and what stays. */
import { Figure, Listen, LivePlane, Paragraph, soundOf, useLoop } from "./parts";

const SOUNDS = [
  ["song", "the song as it is"],
  ["song-difference", "left less right"],
  ["song-lows-kept", "the same, lows kept below 180 Hz"],
  ["song-sides", "without the wedge in the middle"],
  ["song-centre", "the wedge alone"],
] as const;

export function Centre() {
  const { loop, playing, toggle } = useLoop();
  return (
    <>
      <Paragraph>
        In most mixes the voice stands in the middle: it is in both sides, at the same level, at the same
        time. Turn one side upside down and add it to the other, and all that both share is gone. It is the
        two waves that add up to silence, for a whole voice.
      </Paragraph>
      <Figure picture={<LivePlane loop={loop} playing={playing !== null} />}>
        {SOUNDS.map(([id, name]) => (
          <Listen key={id} on={playing === id} onClick={() => void toggle(id, soundOf(id), [1, 0, 0, 1])}>
            {name}
          </Listen>
        ))}
      </Figure>
      <Paragraph>
        Bass, kick and snare stand in the middle too, and go with it, and what is left is mono. So the lows
        are kept: below some 120 to 240 Hz, where bass is and a voice is not, nothing is cancelled.
      </Paragraph>
      <Paragraph>
        Reverb stays. A room answers differently on the left than on the right, so that the tail of a voice is
        not shared, and neither is a second voice that was spread over both sides. What hangs between the
        sides can only be made quieter, not taken out.
      </Paragraph>
      <Paragraph>
        A wedge does better than a difference: moment by moment and frequency by frequency it asks how much
        both sides share, and takes that much. The result is still stereo, and what was taken is the rest of
        it: both together are the song again. Where both sides are the same everything goes; where they have
        nothing in common, nothing does.
      </Paragraph>
    </>
  );
}
