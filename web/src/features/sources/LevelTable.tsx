/** Levels of a file and of its channels; of two channels, how they go together. */
import { Box, Text } from "@chakra-ui/react";
import type { Levels, Measures, Source } from "../../api/client";
import { channelNames } from "../../shared/channelNames";
import { correlation, decibels, gainText, signed } from "../../shared/format";
import { Facts } from "../../shared/parts";

type Read = (levels: Levels) => string;

const figure = (value: number | null) => (value === null ? "–" : signed(value));
const peak: Read = (l) => figure(l.peak_dbfs);
const truePeak: Read = (l) => figure(l.true_peak_dbtp);
const rms: Read = (l) => figure(l.rms_dbfs);
const loudness: Read = (l) => figure(l.loudness_lufs);
const ROWS: readonly (readonly [name: string, read: Read])[] = [
  ["peak (dBFS)", peak],
  ["true peak (dBTP)", truePeak],
  ["RMS (dBFS)", rms],
  ["loudness (LUFS)", loudness],
  ["crest factor (dB)", (l) => figure(l.crest_db)],
  ["DC offset (%)", (l) => signed(100 * l.dc, 3)],
];
/** What is shown of each of many channels, under the units. */
const COLUMNS: readonly (readonly [unit: string, name: string, read: Read])[] = [
  ["Peak", "peak in dBFS", peak],
  ["TP", "true peak in dBTP", truePeak],
  ["RMS", "RMS in dBFS", rms],
  ["LUFS", "loudness", loudness],
];
const COLORS: Record<string, string> = { L: "left", R: "right" };

export function LevelTable({ source, measures }: { source: Source; measures: Measures }) {
  const { whole, channels, sides } = measures;
  const stereo = channels.length === 2;
  const columns = stereo ? [whole, ...channels] : [whole];
  const heads = stereo ? ["overall", "L", "R"] : ["overall"];
  return (
    <>
      <Box textStyle="small" as="table" w="full" aria-label="Levels">
        <thead>
          <tr>
            <td />
            {heads.map((head) => (
              <Head key={head} color={COLORS[head] ?? "fg.quiet"}>
                {head}
              </Head>
            ))}
          </tr>
        </thead>
        <tbody>
          {ROWS.map(([name, read]) => (
            <tr key={name}>
              <Box layerStyle="quiet" as="td">
                {name}
              </Box>
              {columns.map((levels, n) => (
                <Figure key={heads[n]}>{read(levels)}</Figure>
              ))}
            </tr>
          ))}
        </tbody>
      </Box>
      {channels.length > 2 && (
        <EachChannel names={channelNames(channels.length, source)} channels={channels} />
      )}
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

/** Of many channels each has a row: there may be more of them than columns fit. */
function EachChannel({ names, channels }: { names: string[]; channels: Levels[] }) {
  return (
    <Box textStyle="small" as="table" w="full" aria-label="Levels of each channel">
      <thead>
        <tr>
          <td />
          {COLUMNS.map(([unit, name]) => (
            <Head key={unit} title={name}>
              {unit}
            </Head>
          ))}
        </tr>
      </thead>
      <tbody>
        {channels.map((levels, n) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: channels stay in their order, and several may have one name
          <tr key={n}>
            <Box layerStyle="quiet" as="td">
              <Text maxW="5.5rem" truncate title={names[n]}>
                {names[n]}
              </Text>
            </Box>
            {COLUMNS.map(([unit, , read]) => (
              <Figure key={unit}>{read(levels)}</Figure>
            ))}
          </tr>
        ))}
      </tbody>
    </Box>
  );
}

const Head = ({
  color = "fg.quiet",
  title,
  children,
}: {
  color?: string;
  title?: string;
  children: string;
}) => (
  <Box as="th" textAlign="right" color={color} title={title}>
    {children}
  </Box>
);

const Figure = ({ children }: { children: string }) => (
  <Box textStyle="mono" as="td" textAlign="right">
    {children}
  </Box>
);
