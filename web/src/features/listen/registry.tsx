/** The pictures of look-and-listen: one line here is a button, a place in the order of `v`, and a component. */
import { Flex } from "@chakra-ui/react";
import type { ComponentType } from "react";
import type { WedgeSettings } from "../../api/turns";
import { BandsLane, SpectrumLane } from "./AnalysisLane";
import { useDrawn } from "./context";
import type { HushOverlay } from "./HushLayer";
import { GUTTER } from "./LaneFrame";
import { laneChannels } from "./lane";
import type { ShownLane } from "./listenState";
import { MapLane } from "./MapLane";
import type { PictureName } from "./pictureNames";
import { Stage } from "./Stage";

/**
 * What a turn lays over a picture: on the map the wedge of a centre turn, or without its settings what such a turn takes;
 * on the waveform the hushes of a level.
 */
export type Overlay = {
  wedge: { settings: WedgeSettings | null; onChange: (change: Partial<WedgeSettings>) => void } | null;
  hushes: HushOverlay | null;
};
type Picture = {
  label: string;
  title: string;
  /** What its axis is: the tools of the time axis are there for that one alone. */
  axis: "time" | "frequency" | "plane";
  Picture: ComponentType<{ overlay: Overlay }>;
};

function LanesAlongFrequency({ Lane }: { Lane: ComponentType<{ shown: ShownLane }> }) {
  const drawn = useDrawn();
  return (
    <Flex direction="column" flex={1} minW={0} gap={2} pl={`${GUTTER}px`}>
      {drawn.map((shown) => (
        <Lane key={shown.lane.label} shown={shown} />
      ))}
    </Flex>
  );
}

function Maps({ overlay: { wedge } }: { overlay: Overlay }) {
  const drawn = useDrawn();
  const out = drawn.find(({ lane }) => lane.label === "Out");
  const taken = wedge && !wedge.settings ? out : undefined;
  return (
    <Flex flex={1} minW={0} gap={3}>
      {drawn
        .filter(({ lane }) => laneChannels(lane) === 2)
        .map((shown) => (
          <MapLane
            key={shown.lane.label}
            shown={shown}
            wedge={(shown.lane.label === "In" && wedge?.settings) || null}
            left={(shown.lane.label === "In" && taken) || null}
            onWedge={(change) => wedge?.onChange(change)}
          />
        ))}
    </Flex>
  );
}

export const PICTURES: Record<PictureName, Picture> = {
  wave: {
    label: "Waveform",
    title: "Both channels over time (v: next view)",
    axis: "time",
    Picture: Stage,
  },
  spectrum: {
    label: "Spectrum",
    title: "Spectrum of the selection, or of all of it",
    axis: "frequency",
    Picture: () => <LanesAlongFrequency Lane={SpectrumLane} />,
  },
  bands: {
    label: "Bands",
    title: "Correlation by ⅓-octave band",
    axis: "frequency",
    Picture: () => <LanesAlongFrequency Lane={BandsLane} />,
  },
  map: {
    label: "Map",
    title: "Stereo map: energy by pan position and frequency",
    axis: "plane",
    Picture: Maps,
  },
};
