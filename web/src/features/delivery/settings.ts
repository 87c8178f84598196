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
  ["same", "Same as source"],
  ["16", "16-bit"],
  ["24", "24-bit"],
  ["32", "32-bit"],
  ["float", "32-bit float"],
];

/** Every format that the API knows: one that has no title here does not compile. */
const TITLES: Record<Container, string> = { wav: "WAV", bw64: "BW64", flac: "FLAC", aiff: "AIFF" };
export const FORMATS = Object.entries(TITLES) as unknown as Options<Container>;
