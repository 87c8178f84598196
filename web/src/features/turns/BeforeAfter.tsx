/** What goes in and what comes out, figure beside figure, and what is worth knowing about what comes out. */
import { Box } from "@chakra-ui/react";
import type { Measures, Step } from "../../api/client";
import { Failed } from "../../shared/Failed";
import { correlation, gainText, signed } from "../../shared/format";
import { kindOf } from "./kinds";
import { MOST_TOGETHER, useInputMeasures, useOutputMeasures } from "./useInputMeasures";

const figure = (value: number | null | undefined) =>
  value === null || value === undefined ? "–" : signed(value);

const ROWS: readonly (readonly [string, (measures: Measures) => string])[] = [
  ["integrated loudness (LUFS)", (m) => figure(m.whole.loudness_lufs)],
  ["true peak (dBTP)", (m) => figure(m.whole.true_peak_dbtp)],
  ["correlation", (m) => correlation(m.sides?.correlation)],
  ["mono fold-down loss (dB)", (m) => figure(m.sides?.mono_fold_loss_db)],
  ["L/R balance (dB)", (m) => gainText(m.sides?.balance_db, "")],
];

export function BeforeAfter({ step }: { step: Step }) {
  const before = useInputMeasures(step);
  const { out } = kindOf(step.turn).lanes(step, step.turn);
  const after = useOutputMeasures(step, out);
  const apart = out.length > MOST_TOGETHER;
  const failed = [before, after].find((one) => one.isError && !one.data);
  if (failed)
    return <Failed what="The levels could not be measured." onRetry={() => void failed.refetch()} />;
  return (
    <Box textStyle="small" as="table" w="full" aria-label="Before and after">
      <thead>
        <tr>
          <td />
          {["In", "Out"].map((head) => (
            <Box layerStyle="quiet" as="th" key={head} textAlign="right">
              {head}
            </Box>
          ))}
        </tr>
      </thead>
      <tbody>
        {ROWS.map(([name, read]) => (
          <tr key={name}>
            <Box layerStyle="quiet" as="td">
              {name}
            </Box>
            {[before.data?.measures, after.data?.measures].map((measures, n) => (
              <Box
                textStyle="mono"
                as="td"
                key={n ? "out" : "in"}
                textAlign="right"
                pl={2}
                whiteSpace="nowrap"
              >
                {measures ? read(measures) : n && apart ? "–" : "…"}
              </Box>
            ))}
          </tr>
        ))}
      </tbody>
    </Box>
  );
}
