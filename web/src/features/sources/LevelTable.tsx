/** Levels of a file and of its channels; of two channels, how they go together. */
import { Box } from "@chakra-ui/react";
import type { Levels, Measures, Source } from "../../api/client";
import { correlation, decibels, gainText, signed } from "../../shared/format";
import { Facts } from "../../shared/parts";

const ROWS: readonly (readonly [string, (levels: Levels) => string])[] = [
  ["peak (dBFS)", (l) => figure(l.peak_dbfs)],
  ["true peak (dBTP)", (l) => figure(l.true_peak_dbtp)],
  ["RMS (dBFS)", (l) => figure(l.rms_dbfs)],
  ["loudness (LUFS)", (l) => figure(l.loudness_lufs)],
  ["crest factor (dB)", (l) => figure(l.crest_db)],
  ["DC offset (%)", (l) => signed(100 * l.dc, 3)],
];
const figure = (value: number | null) => (value === null ? "–" : signed(value));

export function LevelTable({ source, measures }: { source: Source; measures: Measures }) {
  const columns =
    source.channels === 1 ? [measures.whole] : [measures.whole, ...measures.channels.slice(0, 2)];
  const heads =
    source.channels === 2 ? ["all", "L", "R"] : ["all", ...(source.channels > 2 ? ["1", "2"] : [])];
  const { sides } = measures;
  return (
    <>
      <Box as="table" fontSize="xs" w="full" aria-label="Levels">
        <thead>
          <tr>
            <td />
            {heads.map((head) => (
              <Box
                as="th"
                key={head}
                textAlign="right"
                color={head === "L" ? "left" : head === "R" ? "right" : "fg.quiet"}
              >
                {head}
              </Box>
            ))}
          </tr>
        </thead>
        <tbody>
          {ROWS.map(([name, read]) => (
            <tr key={name}>
              <Box as="td" color="fg.quiet">
                {name}
              </Box>
              {columns.map((levels, n) => (
                <Box as="td" key={heads[n]} textAlign="right" fontFamily="mono">
                  {read(levels)}
                </Box>
              ))}
            </tr>
          ))}
        </tbody>
      </Box>
      {sides && (
        <Facts
          facts={[
            ["correlation", correlation(sides.correlation)],
            ["L/R balance", gainText(sides.balance_db)],
            ["mono fold-down loss", decibels(sides.mono_fold_loss_db)],
            ["side-to-mid ratio", gainText(sides.side_to_mid_db)],
          ]}
        />
      )}
    </>
  );
}
