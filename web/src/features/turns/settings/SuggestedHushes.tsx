/** Where a channel only carries another voice's spill: by how much it has to be quieter, and what that gives. */
import { Text } from "@chakra-ui/react";
import { useContext } from "react";
import { Range } from "../../../shared/fields";
import { count } from "../../../shared/format";
import { OfferButton } from "../../../shared/parts";
import { type Hush, taken } from "../hushes";
import { setThreshold } from "../hushing";
import { Place } from "../useInputMeasures";
import { useSuggestion } from "../useSuggestion";
import type { SettingsProps } from "./common";

type Props = Pick<SettingsProps<"level">, "step" | "turn"> & {
  rate: number;
  onTake: (hushes: Hush[]) => void;
};

export function SuggestedHushes({ step, turn, rate, onTake }: Props) {
  const place = useContext(Place);
  const { proposals, threshold, waiting, error } = useSuggestion(step, turn.hush, rate, place);
  if (error) return <Text color="trouble">Hushes can’t be suggested: {String(error)}</Text>;
  if (waiting) return <Text color="fg.quiet">Measuring who speaks when…</Text>;
  if (threshold === null)
    return (
      <Text color="fg.quiet">
        Nothing to suggest: no channel has a voice of its own that the others only pick up as spill.
      </Text>
    );
  return (
    <>
      <Range
        label="Quieter than the other channel by"
        value={threshold}
        min={3}
        max={40}
        step={0.5}
        shown={`${threshold.toFixed(1)} dB`}
        onChange={(value) => setThreshold(step.id, value)}
      />
      {proposals.length ? (
        <OfferButton alignSelf="start" onClick={() => onTake(taken(turn.hush, proposals))}>
          take {proposals.length > 1 ? `all ${count(proposals.length, "hush", "hushes")}` : "this hush"}
        </OfferButton>
      ) : (
        <Text color="fg.quiet">Nothing more to suggest.</Text>
      )}
    </>
  );
}
