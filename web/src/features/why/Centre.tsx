/** Removing the centre: why it works, what goes with it, and what stays. */
import { Figure, Listen, LivePlane, Paragraph, soundOf, useLoop } from "./parts";

const SOUNDS = [
  ["song", "the original song"],
  ["song-difference", "left minus right"],
  ["song-lows-kept", "the same, with lows below 180 Hz kept"],
  ["song-sides", "without the wedge in the middle"],
  ["song-centre", "the wedge alone"],
  ["song-without-voice", "without the voice"],
  ["song-voice", "the voice alone"],
] as const;

export function Centre() {
  const { loop, playing, toggle } = useLoop();
  return (
    <>
      <Paragraph>
        In most mixes the voice is in the centre: equal in both channels, at the same time. Invert one channel
        and add it to the other, and everything they share cancels. The same cancellation, for a whole voice.
      </Paragraph>
      <Figure picture={<LivePlane loop={loop} playing={playing !== null} />}>
        {SOUNDS.map(([id, name]) => (
          <Listen key={id} on={playing === id} onClick={() => void toggle(id, soundOf(id), [1, 0, 0, 1])}>
            {name}
          </Listen>
        ))}
      </Figure>
      <Paragraph>
        Bass, kick and snare are in the centre too and go with it, and what is left is mono. So the lows are
        kept: below about 120 to 240 Hz, where there is bass but no voice, nothing is cancelled.
      </Paragraph>
      <Paragraph>
        Reverb stays. A room sounds different on the left and on the right, so the tail of a voice is not
        shared, and neither is a double that was panned wide. Anything spread between the channels can only be
        turned down, not removed.
      </Paragraph>
      <Paragraph>
        A wedge does better than a difference: at each moment and frequency it measures how much the two
        channels share and removes that much. The result is still stereo, and adding back what was removed
        gives the song again. Where the channels are identical everything goes; where they have nothing in
        common nothing does.
      </Paragraph>
      <Paragraph>
        To take the voice and leave the drums, something has to know what a voice sounds like. A small network
        that has learned it from songs with known parts says, for each moment and frequency, how much of it is
        voice: bass, kick and snare stay, although they are in the centre too.
      </Paragraph>
    </>
  );
}
