/** How files are delivered unless something else is chosen, and what there is to choose. */
import type { Container, DeliverySettings, Depth } from "../../api/client";
import type { Options } from "../../shared/fields";

export const DEFAULTS: DeliverySettings = {
  depth: "same",
  dither: true,
  rest: false,
  container: "wav",
  naming: { pattern: "{name}", case: "keep", spaces: "keep" },
  folders: false,
};

export const DEPTHS: Options<Depth> = [
  ["same", "same as source"],
  ["16", "16 bit"],
  ["24", "24 bit"],
  ["32", "32 bit"],
  ["float", "32 bit float"],
];

export const FORMATS: Options<Container> = [
  ["wav", "WAV"],
  ["bw64", "BW64"],
  ["flac", "FLAC"],
  ["aiff", "AIFF"],
];
