/** The workbench: what is chosen, and what each pane shows of it. */
import { Flex } from "@chakra-ui/react";
import { useCallback, useDeferredValue, useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import type { Clip, Job, NewStep, Step } from "../api/client";
import type { LinePlace, StepChange } from "../api/edits";
import type { WedgeSettings } from "../api/turns";
import type { Worksheet as WorksheetStore } from "../api/worksheet";
import type { Compared } from "../features/history";
import { type Copied, CopyTo } from "../features/jobs";
import { Pictures, Transport, useSession } from "../features/listen";
import { PrepareStrip } from "../features/prepare";
import { Sources, type Uploads } from "../features/sources";
import { kindOf, Place, useHushes } from "../features/turns";
import { clipNames, Worksheet } from "../features/worksheet";
import { tellProblem } from "../shared/notices";
import { Splitter, useSplit } from "../shared/Splitter";
import { AddLine } from "./AddLine";
import { Aside } from "./Aside";
import { useChosen, usePictureInAddress } from "./address";
import { filmOf } from "./filmOf";
import { lanesOf } from "./lanes";
import { addSteps, setInputs } from "./lineEdits";
import { useLines } from "./useLines";
import { useQuestions } from "./useQuestions";
import { useVersionComparison } from "./useVersionComparison";
import { useWorkbenchKeys } from "./useWorkbenchKeys";

type Props = {
  job: Job;
  edits: WorksheetStore;
  uploads: Uploads;
  /** A line of an earlier version that is heard against what it is now. */
  compared: Compared | null;
  onCompare: (line: Compared | null) => void;
};

/** Per cent of the height, until the splitter is moved. */
const WORKSHEET_SHARE = 42;
const LABELS = ["In", "Out", "In − Out"] as const;
const VERSIONS = ["Then", "Now", "Then − Now"] as const;

export function Workbench({ job: current, edits, uploads, compared, onCompare }: Props) {
  const { stepId, chosen, chooseLine: goToLine, chooseFiles } = useChosen(current);
  // While a question is asked, what is shown and heard is the job with its answer.
  const asked = useQuestions(current, edits);
  const earlier = useVersionComparison(current, compared);
  const tried = asked.tried ?? earlier.job;
  const close = () => {
    asked.close();
    onCompare(null);
  };
  const job = tried ?? current;
  const chooseLine = (line: string | null) => {
    close();
    goToLine(line);
  };
  const filterInput = useRef<HTMLInputElement>(null);
  const turnInput = useRef<HTMLInputElement>(null);
  const lines = useLines({
    job,
    current: asked.asking ? null : stepId,
    choose: chooseLine,
    edits,
    type: () => turnInput.current?.focus(),
  });
  usePictureInAddress();
  const [coming, setComing] = useState<string | null>(null);
  const [copied, setCopied] = useState<Copied | null>(null);
  const [filter, setFilter] = useState("");
  const names = useMemo(() => clipNames(job), [job]);
  const clips = useMemo(
    () =>
      new Map<string, Clip>([...job.sources, ...job.steps.flatMap((s) => s.outputs)].map((c) => [c.ref, c])),
    [job],
  );
  const shownFiles = asked.question?.inputs ?? chosen;
  const step = asked.asking ? asked.step : (job.steps.find((one) => one.id === stepId) ?? null);
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
    goToLine(coming);
    setComing(null);
  }, [job.steps, coming, goToLine]);

  // An answer of several turns is compared with the file, not with what the turn before made of it.
  const chosenLanes = useMemo(
    () =>
      lanesOf(step && asked.question ? { ...step, inputs: asked.question.inputs } : step, shownFiles, clips),
    [step, asked.question, shownFiles, clips],
  );
  const [input, output] = compared ? earlier.lanes : chosenLanes;

  const chooseSources = (refs: string[]) => {
    close();
    chooseFiles(refs);
    setComing(null);
  };
  /** The last line that an edit adds is chosen. */
  const adding = (edit: Promise<Job>) => {
    const before = new Set(job.steps.map((one) => one.id));
    const added = (after: Job) => setComing(after.steps.findLast((one) => !before.has(one.id))?.id ?? null);
    return edit.then(added, tellProblem);
  };
  const add = (steps: NewStep[], place?: LinePlace) => adding(addSteps(edits, steps, place));
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
  // What is only tried is not changed: it is taken first.
  const own = asked.asking || compared ? null : step;
  const overlay = own && kindOf(own.turn).overlay;
  const wedge = (own && overlay?.wedge(own.turn, rate)) ?? null;
  const moveWedge = (change: Partial<WedgeSettings>) => {
    if (own && overlay) changeStep(own.id, { turn: overlay.moved(own.turn, change) });
  };
  const hushes = useHushes(own, rate, place, changeStep);
  const archive = (refs: string[], archived: boolean) => edits.do({ kind: "archive", refs, archived });
  const removeChosen = () => (stepId ? lines.command("remove") : chosen.length && archive(chosen, true));
  const setInput = (line: Step, input: number, ref: string) =>
    void setInputs(
      edits,
      line,
      line.inputs.map((one, n) => (n === input ? ref : one)),
    );
  const film = useMemo(() => filmOf(job, input?.clips.map((clip) => clip.ref) ?? []), [job, input]);
  const labels = compared ? VERSIONS : step ? kindOf(step.turn).lanes(step, step.turn).labels : LABELS;
  // A wedge is moved where the energy is seen.
  const picture = wedge ? "map" : "wave";
  useLayoutEffect(
    () =>
      session.show(
        { job: job.id, revision: job.head, input, output, labels, picture },
        tried ?? edits.store.getState().job ?? job,
      ),
    [session, edits, job, tried, input, output, labels, picture],
  );
  useEffect(() => () => session.player.pause(), [session]);

  useWorkbenchKeys({
    onAdd: () => turnInput.current?.focus(),
    onFilter: () => filterInput.current?.focus(),
    onRemove: removeChosen,
    onInsert: lines.command,
    onBypass: lines.toggleBypass,
  });

  const sources = (
    <Sources
      job={job}
      uploads={uploads}
      selected={asked.question?.inputs ?? (step && inputs) ?? chosen}
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
      job={compared ? current : job}
      current={asked.asking ? (step?.id ?? null) : stepId}
      selected={asked.asking ? (step ? [step.id] : []) : lines.selected}
      onSelect={lines.select}
      onRemove={() => lines.command("remove")}
      onMove={lines.command}
      onInput={setInput}
      share={share}
      top={
        !asked.asking && (
          <PrepareStrip
            job={current}
            names={names}
            onAdd={(steps) => void add(steps)}
            onAsk={() => {
              onCompare(null);
              asked.begin();
            }}
          />
        )
      }
    >
      {!asked.asking && (
        <AddLine
          job={job}
          lines={lines}
          step={step}
          files={lookup(chosen)}
          lookup={lookup}
          input={turnInput}
          selected={selected}
          onSteps={(steps) => void add(steps, lines.place)}
          onRecipe={(recipe, refs, by) => void adding(edits.edit({ kind: "recipe", recipe, refs, by }))}
        />
      )}
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
            <Pictures
              overlay={{ wedge: wedge && { settings: wedge, onChange: moveWedge }, hushes }}
              film={film}
            />
          </Flex>
        </Flex>
        <Place value={place}>
          <Aside
            job={job}
            names={names}
            edits={edits}
            asked={asked}
            compared={compared}
            earlier={earlier}
            lines={lines}
            file={source && file}
            line={step && panel}
            onChange={changeStep}
            onSteps={(steps) => void add(steps)}
            onArchive={archive}
            onClose={close}
            chosen={job.sources.filter((one) => chosen.includes(one.ref)).map((one) => one.id)}
            onCopy={setCopied}
          />
        </Place>
      </Flex>
      <CopyTo job={current} copied={copied} onClose={() => setCopied(null)} />
      <Transport />
    </Flex>
  );
}
