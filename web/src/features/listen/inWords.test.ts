import { expect, it } from "vitest";
import type { Analysis } from "../../api/client";
import { bandsInWords, fieldInWords, mapInWords, spectrumInWords } from "./inWords";

const analysis = (more: Partial<Analysis>): Analysis => ({
  step_hz: 100,
  left: [],
  right: [],
  mid: [],
  side: [],
  field: [],
  bands: [],
  correlation: null,
  ...more,
});

it("says where a spectrum is loudest, of each channel", () => {
  const both = analysis({ left: [-90, -20, -40], right: [-90, -50, -30], mid: [-10], side: [-60, -55] });
  expect(spectrumInWords(both, false)).toBe(
    "Left is loudest at 100.0 Hz, −20.0 dB. Right is loudest at 200.0 Hz, −30.0 dB.",
  );
  expect(spectrumInWords(both, true)).toContain("Side is loudest at 100.0 Hz, −55.0 dB.");
  expect(spectrumInWords(analysis({ left: [-90, -20] }), false)).toBe("It is loudest at 100.0 Hz, −20.0 dB.");
});

it("says what the bands have in common", () => {
  const bands = [
    { hz: 125, correlation: 0.9, level_db: -10 },
    { hz: 2000, correlation: -0.4, level_db: -30 },
    { hz: 8000, correlation: null, level_db: -180 },
  ];
  expect(bandsInWords(analysis({ bands }))).toBe(
    "Loudest around 125.0 Hz, correlation +0.90. Lowest correlation −0.40 around 2.00 kHz; negative in 1 of 2 bands.",
  );
  expect(bandsInWords(analysis({}))).toBe("Silent in every band.");
});

it("says where most of the energy comes from", () => {
  const field = (at: number) => Array.from({ length: 36 }, (_, n) => (n === at ? 1 : 0));
  expect(fieldInWords(field(18))).toBe("Most energy is in the centre.");
  expect(fieldInWords(field(26))).toBe("Most energy is 43° left.");
  expect(fieldInWords(field(9))).toBe("Most energy is 42° right.");
  expect(fieldInWords(field(0))).toBe("Most energy is out of polarity.");
  expect(fieldInWords(field(99))).toBe("Silent.");
});

it("says where a map is loudest", () => {
  const map = new Float32Array(4 * 5).fill(-60);
  map[2 * 5 + 4] = -3;
  expect(mapInWords(map, 5, (place) => 1000 * place)).toBe("Loudest at 625.0 Hz, R100.");
});
