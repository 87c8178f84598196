/** Look and listen: In above Out, the transport, and everything that moves through time. */
import { Flex, Text } from "@chakra-ui/react";
import { Maximize2, ZoomIn, ZoomOut } from "lucide-react";
import {
  type ReactNode,
  useCallback,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
  useSyncExternalStore,
} from "react";
import { useJobArrival } from "../../api/actions";
import { useMeasures } from "../../api/queries";
import { clock } from "../../shared/format";
import { useShortcuts } from "../../shared/keys";
import { tellProblem } from "../../shared/notices";
import { Choice, Choices, Empty, QuietButton } from "../../shared/parts";
import { useSettled } from "../../shared/settled";
import { Analysed } from "./AnalysedLane";
import { AnalysisLane } from "./AnalysisLane";
import { Fan } from "./Fan";
import { type LaneClips, laneChannels, laneFrames, laterLane, playable } from "./lane";
import { MapLane, type WedgeSettings } from "./MapLane";
import type { Side } from "./messages";
import { gainsFor, MODES, type Mode } from "./modes";
import { type Playable, Player, type Program } from "./player";
import { type Range, Stage } from "./Stage";
import { Transport } from "./Transport";
import { pan, showAll, showRange, type Viewport, zoom } from "./viewport";
import { type LookView, VIEW_LABELS, VIEWS } from "./views";

const GAINS = [1, 2, 4, 8, 16, 32, 64];

type Props = {
  job: string;
  revision: string;
  input: LaneClips | null;
  output: LaneClips | null;
  dark: boolean;
  /** The wedge of a centre turn, which is moved on the map; null for every other turn. */
  wedge: WedgeSettings | null;
  onWedge: (change: Partial<WedgeSettings>) => void;
  /** What In, Out and In less Out are, where they have names of their own. */
  called?: readonly [string, string, string];
  /** Where the two parts go on the page. */
  children: (look: ReactNode, transport: ReactNode) => ReactNode;
};

export function LookAndListen(props: Props) {
  const { job, revision, input, output, dark, wedge, children } = props;
  const [player] = useState(() => new Player());
  const state = useSyncExternalStore(player.subscribe, player.getState);
  const [side, setSide] = useState<Side>(1);
  const [mode, setMode] = useState<Mode>("stereo");
  const [pair, setPair] = useState<[number, number]>([0, 1]);
  const [range, setRange] = useState<Range | null>(null);
  const [loop, setLoop] = useState(true);
  const [gain, setGain] = useState(0);
  const [view, setView] = useState<LookView>("wave");
  const [midSide, setMidSide] = useState(false);
  const [pointed, setPointed] = useState<number | null>(null);
  const [apart, setApart] = useState(false);
  const [matched, setMatched] = useState(false);
  const axis = useRef<HTMLDivElement>(null);
  const width = useWidth(axis, input !== null && view === "wave");

  const rate = input?.clips[0]?.rate ?? 48_000;
  const frames = Math.max(laneFrames(input), laneFrames(output));
  const lanes = useMemo(
    () =>
      [input, output].flatMap((lane) => {
        const play = playable(lane, job, revision);
        return lane && play ? [{ lane, playable: play }] : [];
      }),
    [input, output, job, revision],
  );
  // The pictures follow a moving setting when it rests: what is heard does not wait for them.
  const subject = input?.clips.map((clip) => clip.key).join("+") ?? "";
  const drawn = useSettled(lanes, `${subject} ${output ? "out" : ""}`);
  const keys = lanes.map((one) => one.playable.key).join("|");
  const heardSide: Side = output ? side : 0;
  const channels = lanes.length ? Math.max(...lanes.map(({ lane }) => laneChannels(lane))) : 0;

  // A wedge is moved where the energy is seen.
  const hasWedge = wedge !== null;
  useEffect(() => setView((now) => (hasWedge ? "map" : now === "map" ? "wave" : now)), [hasWedge]);
  const [viewport, setViewport] = useState<Viewport>({ start: 0, scale: 1 });
  // What is looked at changes what is shown; a changed setting of the same clips does not move it.
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new subject is shown whole
  useLayoutEffect(() => {
    setViewport(showAll(frames, width));
    setRange(null);
  }, [subject, width]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new subject starts at its beginning
  useEffect(() => {
    player.pause();
    player.seek(0);
  }, [subject]);

  // Louder is easily taken for better: Out is played as loud as In on request.
  const loudness = useLoudness(drawn.map((one) => one.playable));
  const match = matched && loudness ? 10 ** ((loudness[0] - loudness[1]) / 20) : 1;
  const gainsOf = (side: Side, channels: number) =>
    gainsFor(mode, channels, clampPair(pair, channels)).map((one) => (side === 1 ? one * match : one));

  const load = (input: LaneClips | null, output: LaneClips | null, revision: string) => {
    const sides: Program["sides"] = [playable(input, job, revision), playable(output, job, revision)];
    const gains = sides.map((one, n) => gainsOf(n as Side, one?.channels ?? 0));
    player.load({ sides, rate, frames }, gains as [number[], number[]]);
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: keys stand for the lanes
  useEffect(() => load(input, output, revision), [keys, rate, frames, mode, pair, player]);
  // A changed setting is fetched at once: what is heard does not wait for the page to be drawn.
  useJobArrival(job, async (now) => {
    const [later, laterOut] = [input, output].map((lane) => lane && laterLane(lane, now));
    if (!later || (output && !laterOut)) return;
    load(later, laterOut ?? null, now.head);
    await player.ready();
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: what the gains depend on
  useEffect(() => {
    const gains = lanes.map(({ playable: { channels } }, n) => gainsOf(n as Side, channels));
    player.setGains([gains[0] ?? [], gains[1] ?? []]);
  }, [mode, pair, lanes, player, match]);
  useEffect(() => player.setApart(apart && output !== null), [apart, output, player]);
  useEffect(() => player.setSide(heardSide), [heardSide, player]);
  useEffect(() => player.setLoop(loop && range ? range : null), [loop, range, player]);
  useEffect(() => () => player.close(), [player]);
  useEffect(() => {
    if (state.problem) tellProblem(state.problem);
  }, [state.problem]);

  const position = useCallback(() => player.position, [player]);
  const toggle = () => {
    if (state.playing) return player.pause();
    // What is looped is what is meant.
    const looped = loop && range;
    if (looped && (player.position < looped[0] || player.position >= looped[1])) player.seek(looped[0]);
    void player.play();
  };
  const chooseRange = useCallback(
    (next: Range | null) => setRange(next && next[1] > next[0] ? next : null),
    [],
  );
  const zoomBy = (factor: number) => {
    const x = (player.position - viewport.start) / viewport.scale;
    const about = x >= 0 && x <= width ? x : width / 2;
    setViewport((v) => zoom(v, factor, about, frames, width));
  };
  const step = (pixels: number) =>
    player.seek(player.position + Math.max(1, pixels * viewport.scale) * Math.sign(pixels));
  const enlarge = (by: number) => setGain((n) => Math.max(0, Math.min(GAINS.length - 1, n + by)));
  const fitAll = () => setViewport(showAll(frames, width));

  useShortcuts(
    input
      ? {
          Space: toggle,
          q: () => output && setSide((s) => (s === 0 ? 1 : 0)),
          l: () => setLoop((on) => !on),
          v: () => setView((now) => VIEWS[(VIEWS.indexOf(now) + 1) % VIEWS.length] ?? "wave"),
          m: () => setMatched((on) => !on),
          x: () => setApart((on) => !on),
          "[": () => chooseRange([player.position, range?.[1] ?? frames]),
          "]": () => chooseRange([range?.[0] ?? 0, player.position]),
          Escape: () => setRange(null),
          "+": () => zoomBy(2),
          "=": () => zoomBy(2),
          "-": () => zoomBy(0.5),
          "0": fitAll,
          r: () => range && setViewport(showRange(range, width)),
          Home: () => player.seek(0),
          End: () => player.seek(frames),
          ArrowLeft: () => step(-1),
          ArrowRight: () => step(1),
          "Shift+ArrowLeft": () => setViewport((v) => pan(v, -width / 4, frames, width)),
          "Shift+ArrowRight": () => setViewport((v) => pan(v, width / 4, frames, width)),
          "Shift+ArrowUp": () => enlarge(1),
          "Shift+ArrowDown": () => enlarge(-1),
          ...Object.fromEntries(MODES.map((one, n) => [String(n + 1), () => setMode(one)])),
        }
      : {},
  );

  const shown = channels > 2 ? "wave" : view;
  const look = (
    <Flex
      direction="column"
      flex={1}
      minH={0}
      px={4}
      pt={2}
      pb={2}
      gap={1}
      as="section"
      aria-label="Look and listen"
    >
      {input ? (
        <>
          <Flex gap={1} align="center">
            <Choices label="Picture">
              {VIEWS.map((one) => (
                <Choice
                  key={one}
                  chosen={view === one}
                  disabled={one !== "wave" && (channels > 2 || (one === "map" && channels < 2))}
                  title={VIEW_LABELS[one].title}
                  onClick={() => setView(one)}
                >
                  {VIEW_LABELS[one].short}
                </Choice>
              ))}
            </Choices>
            {view === "spectrum" && channels === 2 && (
              <Choices label="Channels of the spectrum">
                <Choice chosen={!midSide} title="Left and right" onClick={() => setMidSide(false)}>
                  L R
                </Choice>
                <Choice chosen={midSide} title="Mid and side" onClick={() => setMidSide(true)}>
                  M S
                </Choice>
              </Choices>
            )}
            {range && (
              <Text color="fg.quiet" fontFamily="mono" fontSize="xs" ml={2} truncate data-testid="range">
                {clock(range[0] / rate)} – {clock(range[1] / rate)} ·{" "}
                {(range[1] - range[0]).toLocaleString("en")} samples
              </Text>
            )}
            <Text color="fg.quiet" fontSize="xs" mr={2} ml="auto" flexShrink={0}>
              height ×{GAINS[gain]}
            </Text>
            <QuietButton title="Closer (+)" aria-label="Closer" onClick={() => zoomBy(2)}>
              <ZoomIn size={16} />
            </QuietButton>
            <QuietButton title="Farther (−)" aria-label="Farther" onClick={() => zoomBy(0.5)}>
              <ZoomOut size={16} />
            </QuietButton>
            <QuietButton title="Show all (0)" aria-label="Show all" onClick={fitAll}>
              <Maximize2 size={16} />
            </QuietButton>
          </Flex>
          <Flex flex={1} minH={0} gap={3}>
            {shown === "wave" ? (
              <Stage
                lanes={drawn}
                heard={heardSide ? "Out" : "In"}
                frames={frames}
                rate={rate}
                viewport={viewport}
                width={width}
                axis={axis}
                gain={GAINS[gain] ?? 1}
                dark={dark}
                range={range}
                position={position}
                onViewport={setViewport}
                onRange={chooseRange}
                onSeek={(frame) => player.seek(frame)}
                onProblem={tellProblem}
              />
            ) : shown === "map" ? (
              <Flex flex={1} minW={0} gap={3}>
                {drawn
                  .filter(({ lane }) => laneChannels(lane) === 2)
                  .map(({ lane, playable }) => (
                    <MapLane
                      key={lane.label}
                      lane={lane}
                      playable={playable}
                      range={range}
                      rate={rate}
                      dark={dark}
                      heard={heardSide === (lane.label === "Out" ? 1 : 0)}
                      wedge={lane.label === "In" ? wedge : null}
                      onWedge={props.onWedge}
                    />
                  ))}
              </Flex>
            ) : (
              <Flex ref={axis} direction="column" flex={1} minW={0} gap={2} pl="28px">
                {drawn.map(({ lane, playable }) => (
                  <Analysed key={lane.label} lane={lane} playable={playable} range={range}>
                    {(analysis) => (
                      <AnalysisLane
                        lane={lane}
                        analysis={analysis}
                        view={shown}
                        midSide={midSide && laneChannels(lane) === 2}
                        rate={rate}
                        width={width}
                        heard={heardSide === (lane.label === "Out" ? 1 : 0)}
                        dark={dark}
                        pointed={pointed}
                        onPoint={setPointed}
                      />
                    )}
                  </Analysed>
                ))}
              </Flex>
            )}
            <Flex direction="column" w="112px" flexShrink={0} pt={5}>
              {drawn.map(({ lane, playable }) => (
                <Flex key={lane.label} flex={1} minH={0} align="center">
                  {laneChannels(lane) === 2 && (
                    <Analysed lane={lane} playable={playable} range={range}>
                      {(analysis) => (
                        <Fan
                          label={lane.label}
                          analysis={analysis}
                          player={player}
                          live={state.playing && heardSide === (lane.label === "Out" ? 1 : 0)}
                          dark={dark}
                        />
                      )}
                    </Analysed>
                  )}
                </Flex>
              ))}
            </Flex>
          </Flex>
        </>
      ) : (
        <Empty title="Nothing to look at yet">
          Take files in, then choose a file or a line of the worksheet: it is seen and heard here.
        </Empty>
      )}
    </Flex>
  );
  const transport = (
    <Transport
      state={state}
      rate={rate}
      frames={frames}
      position={position}
      side={heardSide}
      hasOut={output !== null}
      mode={mode}
      channels={channels}
      pair={pair}
      range={range}
      loop={loop}
      player={player}
      called={props.called ?? ["In", "Out", "In − Out"]}
      apart={apart}
      matched={matched}
      canMatch={loudness !== null}
      onApart={setApart}
      onMatch={setMatched}
      onPlay={toggle}
      onSide={setSide}
      onMode={setMode}
      onPair={setPair}
      onLoop={() => setLoop((on) => !on)}
    />
  );
  return children(look, transport);
}

/** Integrated loudness of In and Out in LUFS; null while there are not both. */
function useLoudness(lanes: Playable[]): [number, number] | null {
  const nothing = { view: { job: "", revision: "", clips: [] }, key: "" };
  const [input, output] = [lanes[0] ?? nothing, lanes[1] ?? nothing];
  const measured = [useMeasures(input.view, input.key), useMeasures(output.view, output.key)];
  const [one, two] = measured.map(({ data }) => data?.measures.whole.loudness_lufs);
  return typeof one === "number" && typeof two === "number" ? [one, two] : null;
}

const clampPair = ([left, right]: [number, number], channels: number): [number, number] => [
  Math.min(left, Math.max(0, channels - 1)),
  Math.min(right, Math.max(0, channels - 1)),
];

function useWidth(element: React.RefObject<HTMLElement | null>, present: boolean): number {
  const [width, setWidth] = useState(800);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the element comes and goes with what is shown
  useLayoutEffect(() => {
    const observed = element.current;
    if (!observed) return;
    const measure = () => setWidth(Math.max(1, observed.clientWidth));
    measure();
    const observer = new ResizeObserver(measure);
    observer.observe(observed);
    return () => observer.disconnect();
  }, [element, present]);
  return width;
}
