import { type Chosen, DEFAULT_KIND, forEach, offerAs, type TurnKind } from "../kind";
import { widthHandles } from "../planeHandles";
import { WidthSettings } from "../settings/MidSide";

const offerWidth = (chosen: Chosen, how: string, width: number) =>
  forEach(chosen, "width", `make ${chosen.names} ${how}`, () => ({ kind: "width", width }));

export const width: TurnKind<"width"> = {
  ...DEFAULT_KIND,
  title: "Width",
  words: ["wider", "narrower", "stereo", "image"],
  offers: (chosen) => [
    // The core's default changes nothing: here it is heard at once what the turn does.
    offerWidth(chosen, "wider or narrower", 1.4),
    ...offerAs("wider", ["wide", "stereo"], offerWidth(chosen, "wider", 1.4)),
    ...offerAs("narrower", ["narrow"], offerWidth(chosen, "narrower", 0.6)),
  ],
  Settings: WidthSettings,
  handles: widthHandles,
  why: "mid-side",
};
