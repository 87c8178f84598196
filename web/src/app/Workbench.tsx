/** The workbench: what is chosen, and what each pane shows of it. */
import { Flex } from "@chakra-ui/react";
import { useCallback, useDeferredValue, useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import type { Clip, Job, NewStep, Step } from "../api/client";
import type { LinePlace, StepChange } from "../api/edits";
import type { WedgeSettings } from "../api/turns";
import type { Worksheet as WorksheetStore } from "../api/worksheet";
import { listenShortcuts, Pictures, Transport, useSession } from "../features/listen";
import { SourcePanel, Sources, type Uploads } from "../features/sources";
import { AddTurn, kindOf, LineMenu, Place, TurnPanel, useHushes } from "../features/turns";
import { clipNames, Worksheet } from "../features/worksheet";
import { CTRL, type Shortcut, useShortcuts } from "../shared/keys";
import { tellProblem } from "../shared/notices";
import { Splitter, useSplit } from "../shared/Splitter";
import { useChosen, usePictureInAddress } from "./address";
import { lanesOf } from "./lanes";
import { addSteps, choicesBefore, setInputs } from "./lineEdits";
import { useLines } from "./useLines";

type Props = { job: Job; edits: WorksheetStore; uploads: Uploads };

/** Per cent of the height, until the splitter is moved. */
const WORKSHEET_SHARE = 42;
const LABELS = ["In", "Out", "In − Out"] as const;

/** Keys of the lists themselves. */
const LIST_KEYS: readonly Shortcut[] = [
  { keys: ["ArrowUp", "ArrowDown"], text: "select a row", shown: "↑ ↓" },
  { keys: ["Shift+ArrowUp"], text: "extend the selection", shown: "Shift ↑ ↓" },
  { keys: ["Home", "End"], text: "first row, last row", shown: "Home End" },
  { keys: ["Alt"], text: "go to the row of that name", shown: "Alt + letters" },
  { keys: ["Ctrl+a"], text: "select all", shown: `${CTRL} A` },
  { keys: ["Enter"], text: "apply the suggested turn" },
  { keys: ["Delete"], text: "remove the turn, archive the files" },
];

export function Workbench({ job, edits, uploads }: Props) {
  const { stepId, chosen, chooseLine, chooseFiles } = useChosen(job);
  const filterInput = useRef<HTMLInputElement>(null);
  const turnInput = useRef<HTMLInputElement>(null);
  const lines = useLines({
    job,
    current: stepId,
    choose: chooseLine,
    edits,
    type: () => turnInput.current?.focus(),
  });
  usePictureInAddress();
  const [coming, setComing] = useState<string | null>(null);
  const [filter, setFilter] = useState("");
  const names = useMemo(() => clipNames(job), [job]);
  const clips = useMemo(
    () =>
      new Map<string, Clip>([...job.sources, ...job.steps.flatMap((s) => s.outputs)].map((c) => [c.ref, c])),
    [job],
  );
  const step = job.steps.find((one) => one.id === stepId) ?? null;
  // Whoever goes through the list sees where they are first, and the inputs and settings of it after that.
  const panelId = useDeferredValue(stepId);
  const inputs = useDeferredValue(step?.inputs ?? null);
  const panel = job.steps.find((one) => one.id === panelId) ?? null;
  const fileRef = useDeferredValue(chosen.at(-1));
  const file = job.sources.find((one) => one.ref === fileRef) ?? null;
  const source = step ? null : (job.sources.find((one) => one.ref === chosen.at(-1)) ?? null);
  const lookup = (refs: string[]) => refs.flatMap((ref) => clips.get(ref) ?? []);

  // An added step is chosen as soon as its worksheet is here; until then what was chosen stays, and goes on sounding.
  useLayoutEffect(() => {
    if (!coming || !job.steps.some((one) => one.id === coming)) return;
    chooseLine(coming);
    setComing(null);
  }, [job.steps, coming, chooseLine]);

  const [input, output] = useMemo(() => lanesOf(step, chosen, clips), [step, chosen, clips]);

  const chooseSources = (refs: string[]) => {
    chooseFiles(refs);
    setComing(null);
  };
  const add = (steps: NewStep[], place?: LinePlace) => {
    const before = new Set(job.steps.map((one) => one.id));
    const added = (after: Job) => setComing(after.steps.findLast((one) => !before.has(one.id))?.id ?? null);
    return addSteps(edits, steps, place).then(added, tellProblem);
  };
  const session = useSession();
  const [share, setShare] = useSplit("worksheet", WORKSHEET_SHARE);
  const selected = useCallback(() => session.selected, [session]);
  const place = useMemo(
    () => ({
      job: job.id,
      revision: job.head,
      keyOf: (ref: string) => clips.get(ref)?.key ?? "",
      selected,
      playhead: () => session.player.position,
      insertBefore: (line: string, step: NewStep) =>
        void addSteps(edits, [step], { before: line }).catch(tellProblem),
    }),
    [job.id, job.head, clips, selected, session, edits],
  );
  const changeStep = (id: string, { gesture, ...change }: StepChange & { gesture?: string }) =>
    edits.do({ kind: "change", step: id, change, gesture });
  const rate = input?.clips[0]?.rate ?? 48_000;
  const overlay = step && kindOf(step.turn).overlay;
  const wedge = (step && overlay?.wedge(step.turn, rate)) ?? null;
  const moveWedge = (change: Partial<WedgeSettings>) => {
    if (step && overlay) changeStep(step.id, { turn: overlay.moved(step.turn, change) });
  };
  const hushes = useHushes(step, rate, place, changeStep);
  const archive = (refs: string[], archived: boolean) => edits.do({ kind: "archive", refs, archived });
  const removeChosen = () => (stepId ? lines.command("remove") : chosen.length && archive(chosen, true));
  const setInput = (line: Step, input: number, ref: string) =>
    void setInputs(
      edits,
      line,
      line.inputs.map((one, n) => (n === input ? ref : one)),
    );
  const labels = step ? kindOf(step.turn).lanes(step, step.turn).labels : LABELS;
  // A wedge is moved where the energy is seen.
  const picture = wedge ? "map" : "wave";
  useLayoutEffect(
    () =>
      session.show(
        { job: job.id, revision: job.head, input, output, labels, picture },
        edits.store.getState().job ?? job,
      ),
    [session, edits, job, input, output, labels, picture],
  );
  useEffect(() => () => session.player.pause(), [session]);

  useShortcuts("Everywhere", [
    { keys: ["t"], text: "add a turn: type its name", run: () => turnInput.current?.focus() },
    { keys: ["/"], text: "filter the sources", run: () => filterInput.current?.focus() },
    {
      keys: ["Delete"],
      text: "remove the turn, archive the files",
      shown: "",
      // With the focus on a setting or in another list, something else is meant.
      run: ({ target }) => target === document.body && removeChosen(),
    },
  ]);
  useShortcuts("Worksheet", [
    { keys: ["i"], text: "insert a turn before the line", run: () => lines.command("before") },
    {
      keys: ["Shift+i"],
      text: "insert a turn after the line",
      shown: "Shift I",
      run: () => lines.command("after"),
    },
    { keys: ["b"], text: "bypass the line, use it again", run: () => stepId && lines.toggleBypass() },
    { keys: ["Alt+ArrowUp", "Alt+ArrowDown"], text: "move the line up, down", shown: "Alt ↑ ↓" },
  ]);
  useShortcuts("Lists", LIST_KEYS);
  useShortcuts("View and listen", listenShortcuts(session));

  const sources = (
    <Sources
      job={job}
      uploads={uploads}
      selected={(step && inputs) ?? chosen}
      filter={filter}
      filterInput={filterInput}
      onFilter={setFilter}
      onSelect={chooseSources}
      onSteps={(steps) => void add(steps)}
      onArchive={archive}
      onDelete={() => !step && chosen.length && archive(chosen, true)}
      onFiles={uploads.add}
    />
  );
  const worksheet = (
    <Worksheet
      job={job}
      current={stepId}
      selected={lines.selected}
      onSelect={lines.select}
      onRemove={() => lines.command("remove")}
      onMove={lines.command}
      onInput={setInput}
      share={share}
    >
      <AddTurn
        chosen={
          lines.inserting?.side === "before"
            ? lookup(lines.inserting.step.inputs)
            : step
              ? step.outputs
              : lookup(chosen)
        }
        place={lines.inserting && `Insert ${lines.inserting.side} line ${lines.inserting.line}`}
        onClose={lines.stopInserting}
        groups={job.groups}
        selected={selected}
        input={turnInput}
        onAdd={(steps) => void add(steps, lines.place)}
      />
    </Worksheet>
  );
  return (
    <Flex direction="column" flex={1} minH={0}>
      <Flex flex={1} minH={0}>
        {sources}
        <Flex direction="column" flex={1} minW={0}>
          {worksheet}
          <Splitter label="Height of the worksheet" share={share} onShare={setShare} home={WORKSHEET_SHARE} />
          <Flex direction="column" flex={1} minH={0}>
            <Pictures overlay={{ wedge: wedge && { settings: wedge, onChange: moveWedge }, hushes }} />
          </Flex>
        </Flex>
        {source && file && (
          <SourcePanel
            job={job}
            source={file}
            onSteps={(steps) => void add(steps)}
            onArchive={archive}
            onDelete={(source) => edits.do({ kind: "deleteSource", source })}
            onPair={(members, together) => edits.do({ kind: "pair", members, together })}
          />
        )}
        {step && panel && (
          <Place value={place}>
            <TurnPanel
              step={panel}
              names={names}
              onChange={(change) =>
                change.inputs && !change.turn
                  ? void setInputs(edits, panel, change.inputs)
                  : changeStep(panel.id, change)
              }
              choices={() => choicesBefore(job, panel.id)}
              menu={
                <LineMenu
                  count={lines.selected.length}
                  bypassed={lines.bypassed}
                  canBypass={lines.canBypass}
                  onCommand={lines.command}
                />
              }
              onSteps={(steps) => void add(steps)}
            />
          </Place>
        )}
      </Flex>
      <Transport />
    </Flex>
  );
}
