/** Levels of a file and of its channels; of two channels, how they go together. */
import { Box, Text } from "@chakra-ui/react";
import type { Levels, Measures, Source } from "../../api/client";
import { channelNames } from "../../shared/channelNames";
import { correlation, decibels, gainText, signed } from "../../shared/format";
import { Facts } from "../../shared/parts";

type Row = { name: string; short: string; read: (levels: Levels) => string };

const figure = (value: number | null) => (value === null ? "–" : signed(value));
const PEAK: Row = { name: "peak (dBFS)", short: "peak", read: (l) => figure(l.peak_dbfs) };
const TRUE_PEAK: Row = { name: "true peak (dBTP)", short: "true pk", read: (l) => figure(l.true_peak_dbtp) };
const RMS: Row = { name: "RMS (dBFS)", short: "RMS", read: (l) => figure(l.rms_dbfs) };
const LOUDNESS: Row = { name: "loudness (LUFS)", short: "LUFS", read: (l) => figure(l.loudness_lufs) };
const ROWS: readonly Row[] = [
  PEAK,
  TRUE_PEAK,
  RMS,
  LOUDNESS,
  { name: "crest factor (dB)", short: "crest", read: (l) => figure(l.crest_db) },
  { name: "DC offset (%)", short: "DC", read: (l) => signed(100 * l.dc, 3) },
];
const COLORS: Record<string, string> = { L: "left", R: "right" };

export function LevelTable({ source, measures }: { source: Source; measures: Measures }) {
  const { whole, channels, sides } = measures;
  const stereo = channels.length === 2;
  const columns = stereo ? [whole, ...channels] : [whole];
  const heads = stereo ? ["all", "L", "R"] : ["all"];
  return (
    <>
      <Box as="table" fontSize="xs" w="full" aria-label="Levels">
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
          {ROWS.map(({ name, read }) => (
            <tr key={name}>
              <Box as="td" color="fg.quiet">
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
  const figures = [PEAK, TRUE_PEAK, RMS, LOUDNESS];
  return (
    <Box as="table" fontSize="xs" w="full" aria-label="Levels of each channel">
      <thead>
        <tr>
          <td />
          {figures.map(({ name, short }) => (
            <Head key={name} title={name}>
              {short}
            </Head>
          ))}
        </tr>
      </thead>
      <tbody>
        {channels.map((levels, n) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: channels stay in their order, and several may have one name
          <tr key={n}>
            <Box as="td" color="fg.quiet">
              <Text maxW="5.5rem" truncate title={names[n]}>
                {names[n]}
              </Text>
            </Box>
            {figures.map(({ name, read }) => (
              <Figure key={name}>{read(levels)}</Figure>
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
  <Box as="td" textAlign="right" fontFamily="mono">
    {children}
  </Box>
);
