/** Where a channel only carries another voice's spill: by how much it has to be quieter, and what that gives. */
import { Text } from "@chakra-ui/react";
import { useContext } from "react";
import { count } from "../../../shared/format";
import { SecondaryButton } from "../../../shared/parts";
import { Value } from "../../../shared/Value";
import { type Hush, taken } from "../hushes";
import { setThreshold } from "../hushing";
import { Place } from "../useInputMeasures";
import { useSuggestion } from "../useSuggestion";
import type { SettingsProps } from "./common";

type Props = Pick<SettingsProps<"level">, "step" | "turn"> & {
  rate: number;
  onTake: (hushes: Hush[]) => void;
};

/** In decibels; what it is by default is measured. */
const THRESHOLDS = { least: 3, most: 40, usual: null };

export function SuggestedHushes({ step, turn, rate, onTake }: Props) {
  const place = useContext(Place);
  const { proposals, threshold, waiting, error } = useSuggestion(step, turn.hush, rate, place);
  if (error) return <Text layerStyle="danger">Hushes can’t be suggested: {String(error)}</Text>;
  if (waiting) return <Text layerStyle="quiet">Analysing…</Text>;
  if (threshold === null)
    return (
      <Text layerStyle="quiet">
        Nothing to suggest: no channel has a voice that the others only pick up as spill.
      </Text>
    );
  return (
    <>
      <Value
        label="Threshold below the other channel"
        value={threshold}
        limits={THRESHOLDS}
        step={0.5}
        write={(db) => `${db.toFixed(1)} dB`}
        onChange={(value) => setThreshold(step.id, value)}
      />
      {proposals.length ? (
        <SecondaryButton alignSelf="start" onClick={() => onTake(taken(turn.hush, proposals))}>
          Add {proposals.length > 1 ? `all ${count(proposals.length, "hush", "hushes")}` : "this hush"}
        </SecondaryButton>
      ) : (
        <Text layerStyle="quiet">Nothing more to suggest.</Text>
      )}
    </>
  );
}
