/** Loudness of the clip that is heard, where it is heard: momentary and short-term, and the true peak of all of it. */
import { Box, Text } from "@chakra-ui/react";
import { Fragment, useCallback, useRef, useState } from "react";
import { LOUDNESS_STEPS, useLoudness, useMeasures } from "../../api/queries";
import { signed } from "../../shared/format";
import { useFrames, useListen, useSession } from "./context";
import type { ShownLane } from "./listenState";

const STEPS_A_SECOND = 10;
const WRITE_EVERY = 100; // milliseconds: a stretch of loudness is no longer
/** Quieter than this is silence. */
const FLOOR = -70; // LUFS, as the absolute gate of BS.1770

const NAMES = [
  ["M", "Momentary loudness, 400 ms, in LUFS"],
  ["S", "Short-term loudness, 3 s, in LUFS"],
] as const;

export function LoudnessMeter() {
  const heard = useListen(
    (state) => state.drawn[state.shown.output && state.monitor ? 1 : 0] ?? state.drawn[0],
  );
  return heard ? <Figures shown={heard} /> : null;
}

function Figures({ shown: { playable } }: { shown: ShownLane }) {
  const { player } = useSession();
  const rate = useListen((state) => state.rate);
  const playing = useListen((state) => state.playing);
  const [minute, setMinute] = useState(0);
  const { data } = useLoudness(playable.view, playable.key, minute, playing);
  const peak = useMeasures(playable.view, playable.key).data?.measures.whole.true_peak_dbtp;
  const figures = useRef<(HTMLElement | null)[]>([]);
  const written = useRef(0);
  useFrames(
    useCallback(
      (now: number) => {
        if (now - written.current < WRITE_EVERY) return false;
        written.current = now;
        const step = Math.floor(((player.position - playable.later) / rate) * STEPS_A_SECOND);
        setMinute(Math.max(0, Math.floor(step / LOUDNESS_STEPS)));
        // What has been heard by now: the stretch before the one that is heard.
        const at = 2 * ((step % LOUDNESS_STEPS) - 1);
        figures.current.forEach((figure, n) => {
          if (figure) figure.textContent = loudnessText(data?.[at + n]);
        });
        return false;
      },
      [player, rate, playable, data],
    ),
  );
  return (
    <Box
      layerStyle="meter"
      gridTemplateColumns="auto 44px"
      columnGap={1}
      role="group"
      aria-label="Loudness and true peak"
      flexShrink={0}
      data-testid="loudness"
    >
      {NAMES.map(([name, title], n) => (
        <Fragment key={name}>
          <Text layerStyle="quiet" title={title}>
            {name}
          </Text>
          <Text
            textAlign="right"
            ref={(element: HTMLElement | null) => {
              figures.current[n] = element;
            }}
          >
            –
          </Text>
        </Fragment>
      ))}
      <Text layerStyle="quiet" title="True peak of the whole clip, in dBTP">
        TP
      </Text>
      <Text textAlign="right">{typeof peak === "number" ? signed(peak) : "–"}</Text>
    </Box>
  );
}

export const loudnessText = (lufs: number | undefined) =>
  lufs === undefined ? "–" : lufs > FLOOR ? signed(lufs) : "−∞";
