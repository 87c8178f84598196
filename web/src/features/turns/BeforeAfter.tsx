/** What goes in and what comes out, figure beside figure, and what is worth knowing about what comes out. */
import { Box } from "@chakra-ui/react";
import type { Measures, Step } from "../../api/client";
import { Failed } from "../../shared/Failed";
import { signed } from "../../shared/format";
import { kindOf } from "./kinds";
import { useInputMeasures, useOutputMeasures } from "./useInputMeasures";

const ROWS: readonly (readonly [string, (measures: Measures) => number | null | undefined, number])[] = [
  ["integrated loudness (LUFS)", (m) => m.whole.loudness_lufs, 1],
  ["true peak (dBTP)", (m) => m.whole.true_peak_dbtp, 1],
  ["correlation", (m) => m.sides?.correlation, 2],
  ["mono fold-down loss (dB)", (m) => m.sides?.mono_fold_loss_db, 1],
  ["L/R balance (dB)", (m) => m.sides?.balance_db, 1],
];

export function BeforeAfter({ step }: { step: Step }) {
  const before = useInputMeasures(step);
  const after = useOutputMeasures(step, kindOf(step.turn).lanes(step, step.turn).out);
  const failed = [before, after].find((one) => one.isError && !one.data);
  if (failed)
    return <Failed what="The levels could not be measured." onRetry={() => void failed.refetch()} />;
  const figure = (value: number | null | undefined, places: number) =>
    value === null || value === undefined ? "–" : signed(value, places);
  return (
    <Box as="table" fontSize="xs" w="full" aria-label="Before and after">
      <thead>
        <tr>
          <td />
          {["In", "Out"].map((head) => (
            <Box as="th" key={head} textAlign="right" color="fg.quiet">
              {head}
            </Box>
          ))}
        </tr>
      </thead>
      <tbody>
        {ROWS.map(([name, read, places]) => (
          <tr key={name}>
            <Box as="td" color="fg.quiet">
              {name}
            </Box>
            {[before.data?.measures, after.data?.measures].map((measures, n) => (
              <Box as="td" key={n ? "out" : "in"} textAlign="right" fontFamily="mono">
                {measures ? figure(read(measures), places) : "…"}
              </Box>
            ))}
          </tr>
        ))}
      </tbody>
    </Box>
  );
}
