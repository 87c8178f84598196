/** In above Out as a picture, the choice of the picture, and the field of each beside it. */
import { Box, Flex, Text, VisuallyHidden } from "@chakra-ui/react";
import { Maximize2, UnfoldVertical, ZoomIn, ZoomOut } from "lucide-react";
import { useMeasures } from "../../api/queries";
import { Choices, PressedButton } from "../../shared/choices";
import { useLabel } from "../../shared/commands";
import { clock } from "../../shared/format";
import { Empty, QuietButton } from "../../shared/parts";
import { Tip } from "../../shared/Tip";
import { useDrawn, useListen, useSession } from "./context";
import { Fan } from "./Fan";
import { Film, type FilmShown } from "./Film";
import { laneChannels } from "./lane";
import { HEIGHTS, type ShownLane } from "./listenState";
import { ACCEPTS, acceptedPicture, PICTURE_NAMES } from "./pictureNames";
import { type Overlay, PICTURES } from "./registry";
import { useLaneAnalysis } from "./useLaneAnalysis";

export function Pictures({ overlay, film }: { overlay: Overlay; film: FilmShown | null }) {
  const anything = useListen((state) => state.shown.input !== null);
  const name = useListen((state) => acceptedPicture(state.picture, state.channels));
  const drawn = useDrawn();
  const { Picture, axis } = PICTURES[name];
  return (
    <Flex
      direction="column"
      flex={1}
      minH={0}
      px={4}
      pt={2}
      pb={2}
      gap={1}
      as="section"
      aria-label="View and listen"
    >
      {anything ? (
        <>
          <Bar />
          <Flex flex={1} minH={0} gap={3}>
            <Picture overlay={overlay} />
            {(film || axis !== "plane") && (
              <Flex
                direction="column"
                w={film ? { base: "208px", "2xl": "320px" } : "round(clamp(112px, 28%, 320px), 1px)"}
                flexShrink={0}
                pt={4}
              >
                {film && <Film film={film} />}
                {axis !== "plane" && (
                  <Flex direction={film ? "row" : "column"} flex={1} minH={0}>
                    {drawn.map((shown) => (
                      <Flex key={shown.lane.label} flex={1} minH={0} direction="column" justify="center">
                        {laneChannels(shown.lane) === 2 && <Field shown={shown} />}
                      </Flex>
                    ))}
                  </Flex>
                )}
              </Flex>
            )}
          </Flex>
        </>
      ) : (
        <Empty title="Nothing selected">
          Add files, then select one, or a line of the worksheet, to see and hear it here.
        </Empty>
      )}
    </Flex>
  );
}

function Field({ shown }: { shown: ShownLane }) {
  const range = useListen((state) => state.range);
  const measures = useMeasures(shown.playable.view, shown.playable.key).data?.measures;
  const correlation = range ? undefined : measures?.sides?.correlation;
  return <Fan label={shown.lane.label} analysis={useLaneAnalysis(shown).data} correlation={correlation} />;
}

const SPECTRUM_CHANNELS = [
  { value: "left-right", text: "L R", tip: "Left and right" },
  { value: "mid-side", text: "M S", tip: "Mid and side" },
] as const;

/** Which picture, and what moves it. */
function Bar() {
  const session = useSession();
  const channels = useListen((state) => state.channels);
  const name = useListen((state) => acceptedPicture(state.picture, state.channels));
  const midSide = useListen((state) => state.midSide);
  return (
    <Flex gap={1} align="center">
      <Choices
        label="Picture"
        value={name}
        options={PICTURE_NAMES.map((one) => ({
          value: one,
          text: PICTURES[one].label,
          tip: PICTURES[one].title,
          disabled: !ACCEPTS[one](channels),
        }))}
        onChange={(one) => session.look.setPicture(one)}
      />
      {name === "spectrum" && channels === 2 && (
        <Choices
          label="Channels of the spectrum"
          value={midSide ? "mid-side" : "left-right"}
          options={SPECTRUM_CHANNELS}
          onChange={(one) => session.look.setMidSide(one === "mid-side")}
        />
      )}
      <RangeText />
      {PICTURES[name].axis === "time" && <TimeTools />}
    </Flex>
  );
}

function RangeText() {
  const range = useListen((state) => state.range);
  const rate = useListen((state) => state.rate);
  if (!range) return null;
  const places = `${clock(range[0] / rate)}–${clock(range[1] / rate)}`;
  const samples = (range[1] - range[0]).toLocaleString("en");
  return (
    <Text
      layerStyle="figures"
      ml={2}
      minW={0}
      truncate
      title={`${places} · ${samples} samples`}
      data-testid="range"
    >
      {places} · {samples}
      <Box as="span" display={{ base: "none", "2xl": "inline" }}>
        {" "}
        samples
      </Box>
    </Text>
  );
}

function TimeTools() {
  const session = useSession();
  const withKeys = useLabel();
  const height = useListen((state) => HEIGHTS[state.height]);
  const fitHeight = useListen((state) => state.fitHeight);
  return (
    <Flex align="center" ml="auto" flexShrink={0}>
      {height !== 1 && !fitHeight && (
        <Text layerStyle="note" mr={2}>
          Height ×{height}
        </Text>
      )}
      <PressedButton
        pressed={fitHeight}
        tip={withKeys("Each clip as high as there is room, by its own peak", "fitHeight")}
        onClick={() => session.look.toggleFitHeight()}
      >
        <UnfoldVertical size={16} />
        <VisuallyHidden>Fit height</VisuallyHidden>
      </PressedButton>
      <Tip text={withKeys("Zoom in", "zoomIn")}>
        <QuietButton px={1} aria-label="Zoom in" onClick={() => session.look.zoomBy(2)}>
          <ZoomIn size={16} />
        </QuietButton>
      </Tip>
      <Tip text={withKeys("Zoom out", "zoomOut")}>
        <QuietButton px={1} aria-label="Zoom out" onClick={() => session.look.zoomBy(0.5)}>
          <ZoomOut size={16} />
        </QuietButton>
      </Tip>
      <Tip text={withKeys("Zoom to fit", "fit")}>
        <QuietButton px={1} aria-label="Zoom to fit" onClick={() => session.look.fit()}>
          <Maximize2 size={16} />
        </QuietButton>
      </Tip>
    </Flex>
  );
}
