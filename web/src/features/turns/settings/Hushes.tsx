/** The hushes of a level, as rows in the order of time; the selected one's figures can be typed in. */
import { Flex, Text } from "@chakra-ui/react";
import { useContext } from "react";
import type { Clip } from "../../../api/client";
import { Committed } from "../../../shared/Committed";
import { channelNames } from "../../../shared/channelNames";
import { Field, FieldGroup, Select } from "../../../shared/fields";
import { count } from "../../../shared/format";
import { QuietButton, SecondaryButton } from "../../../shared/parts";
import { noTime, placeIn, placeText } from "../../../shared/places";
import { RowList } from "../../../shared/RowList";
import { fadeIn, stepFade } from "../fades";
import { added, depthIn, depthText, type Hush, inTime, removed, replaced, spanOf, split } from "../hushes";
import { selectHush, suggestHushes, toggleDrawing, useHushDrawing } from "../hushing";
import { Place } from "../useInputMeasures";
import type { SettingsProps } from "./common";
import { HushRow, ROW } from "./HushRow";
import { SuggestedHushes } from "./SuggestedHushes";

const MOST_ROWS = 6;
const SECOND = 1;

export function Hushes({ step, turn, onChange }: SettingsProps<"level">) {
  const { selected: selectedRange, playhead } = useContext(Place);
  const { selected, drawing, suggesting } = useHushDrawing(step.id);
  const [out] = step.outputs;
  if (!out) return null;
  const { rate } = out;
  const hushes = turn.hush;
  const names = channelNames(step.matrix.length, out);
  const order = inTime(hushes, rate);
  const hush = selected === null ? null : (hushes[selected] ?? null);
  const change = (gesture: string, hush: Hush[]) => onChange({ turn: { ...turn, hush }, gesture });
  const add = () => {
    const range = selectedRange();
    const span = range
      ? ([(range.start * rate) / range.rate, (range.end * rate) / range.rate] as const)
      : ([0, Math.min(out.frames, SECOND * rate)] as const);
    change(`add ${hushes.length}`, added(hushes, hush?.channel ?? 1, span));
    selectHush(step.id, hushes.length);
  };
  const remove = (at: number) => {
    change(`remove ${hushes.length}`, removed(hushes, at));
    selectHush(step.id, null);
  };
  return (
    <FieldGroup label={hushes.length ? count(hushes.length, "hush", "hushes") : "Hushes"}>
      <Flex gap={2} wrap="wrap">
        <SecondaryButton aria-pressed={drawing} onClick={() => toggleDrawing(step.id)}>
          draw
        </SecondaryButton>
        <SecondaryButton onClick={add}>add</SecondaryButton>
        {names.length > 1 && (
          <SecondaryButton aria-pressed={suggesting} onClick={() => suggestHushes(step.id, !suggesting)}>
            suggest
          </SecondaryButton>
        )}
      </Flex>
      {drawing && <Text layerStyle="quiet">Drag across a channel of the In waveform.</Text>}
      {suggesting && (
        <SuggestedHushes
          step={step}
          turn={turn}
          rate={rate}
          onTake={(all) => change(`take ${hushes.length}`, all)}
        />
      )}
      {hushes.length > 0 && (
        <Flex direction="column" h={`${ROW * Math.min(MOST_ROWS, hushes.length)}px`}>
          <RowList
            label="Hushes of this line"
            role="listbox"
            rows={order}
            at={selected === null ? -1 : order.indexOf(selected)}
            keyOf={String}
            heightOf={() => ROW}
            textOf={(n) => names[(hushes[n]?.channel ?? 1) - 1] ?? ""}
            onMove={(row) => selectHush(step.id, order[row] ?? null)}
            onKey={(event) => {
              if ((event.key !== "Delete" && event.key !== "Backspace") || selected === null) return false;
              remove(selected);
              return true;
            }}
          >
            {(n, number, id, { top }) => (
              <HushRow
                id={id}
                top={top}
                number={number + 1}
                of={hushes.length}
                hush={hushes[n] as Hush}
                name={names[(hushes[n]?.channel ?? 1) - 1] ?? ""}
                rate={rate}
                selected={n === selected}
                onClick={() => selectHush(step.id, n)}
              />
            )}
          </RowList>
        </Flex>
      )}
      {hush && selected !== null && (
        <Figures
          hush={hush}
          names={names}
          clip={out}
          onChange={(part) =>
            change(`type ${selected} ${Object.keys(part)}`, replaced(hushes, selected, part))
          }
          onSplit={() => {
            const both = split(hushes, selected, playhead(), rate);
            if (both) change(`split ${hushes.length}`, both);
          }}
          onRemove={() => remove(selected)}
        />
      )}
    </FieldGroup>
  );
}

type FiguresProps = {
  hush: Hush;
  names: string[];
  clip: Clip;
  onChange: (part: Partial<Hush>) => void;
  onSplit: () => void;
  onRemove: () => void;
};

function Figures({ hush, names, clip, onChange, onSplit, onRemove }: FiguresProps) {
  const { rate } = clip;
  const timeIn = (text: string) => {
    const place = placeIn(text, clip);
    return place === "end" ? null : place;
  };
  const [start, end] = spanOf(hush, rate);
  const refuse = (text: string) => (timeIn(text) === null ? noTime(text, clip) : null);
  const refuseEnd = (text: string) => {
    const place = timeIn(text);
    if (place === null) return noTime(text, clip);
    return spanOf({ ...hush, end: place }, rate)[1] > start ? null : "A hush ends after it starts.";
  };
  const startAt = (text: string) => {
    const place = timeIn(text) ?? hush.start;
    const [first] = spanOf({ ...hush, start: place }, rate);
    // Beyond its end it goes as a whole.
    onChange(first < end ? { start: place } : { start: place, end: `${first + end - start}s` });
  };
  return (
    <Flex layerStyle="outlined" direction="column" gap={2} p={2}>
      {names.length > 1 && (
        <Select
          label="Channel of the hush"
          value={String(hush.channel)}
          options={names.map((name, n) => [String(n + 1), name] as const)}
          onChange={(channel) => onChange({ channel: Number(channel) })}
        />
      )}
      <Flex gap={2}>
        <Field label="From">
          <Committed label="From" value={placeText(hush.start, rate)} refuse={refuse} onCommit={startAt} />
        </Field>
        <Field label="To">
          <Committed
            label="To"
            value={placeText(hush.end, rate)}
            refuse={refuseEnd}
            onCommit={(text) => onChange({ end: timeIn(text) ?? hush.end })}
          />
        </Field>
      </Flex>
      <Flex gap={2}>
        <Field label="Level">
          <Committed
            label="Level of the hush"
            value={depthText(hush.gain_db)}
            refuse={(text) => (depthIn(text) === null ? "Enter a level from 0 to −144 dB, or mute." : null)}
            onCommit={(text) => onChange({ gain_db: depthIn(text) ?? hush.gain_db })}
          />
        </Field>
        <Field label="Fade (ms)">
          <Committed
            label="Fades in milliseconds"
            value={String(hush.fade_ms)}
            refuse={(text) => (fadeIn(text) === null ? "Enter 0 to 10,000 ms." : null)}
            onCommit={(text) => onChange({ fade_ms: fadeIn(text) ?? 0 })}
            onStep={(by, large) => onChange({ fade_ms: stepFade(hush.fade_ms, by, large) })}
          />
        </Field>
      </Flex>
      <Flex>
        <QuietButton onClick={onSplit}>Split at playhead</QuietButton>
        <QuietButton onClick={onRemove}>Remove hush</QuietButton>
      </Flex>
    </Flex>
  );
}
