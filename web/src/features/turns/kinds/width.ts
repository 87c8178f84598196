import { DEFAULT_KIND, forEach, type TurnKind } from "../kind";
import { widthHandles } from "../planeHandles";
import { WidthSettings } from "../settings/MidSide";

export const width: TurnKind<"width"> = {
  ...DEFAULT_KIND,
  title: "Width",
  words: ["wide", "narrow", "stereo", "image"],
  offers: (chosen) => [
    // The core's default changes nothing: here it is heard at once what the turn does.
    forEach(chosen, "width", `make ${chosen.names} wider or narrower`, () => ({ kind: "width", width: 1.4 })),
  ],
  Settings: WidthSettings,
  handles: widthHandles,
  why: "mid-side",
};
