/** One job: its top bar, and the workbench or the delivery below it. */
import { Flex, Text } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { CircleQuestionMark } from "lucide-react";
import { useState } from "react";
import { Link, Outlet, useLocation, useOutletContext, useParams } from "react-router";
import { makeComparison, makeDraft } from "../api/actions";
import type { Job } from "../api/client";
import { measuresOf } from "../api/queries";
import { DeliveryView, deliverDirectly, saveDelivery } from "../features/delivery";
import { History } from "../features/history";
import { ListenProvider, useNewSession } from "../features/listen";
import { DropArea, type Uploads, useUploads } from "../features/sources";
import { useWorksheet, useWorksheetState } from "../model/useWorksheet";
import type { Worksheet } from "../model/worksheet";
import { ColorModeButton } from "../shared/ColorModeButton";
import { KeysOf, useLabel } from "../shared/commands";
import { count } from "../shared/format";
import { Mark } from "../shared/Mark";
import { tell, tellFailure, tellProblem } from "../shared/notices";
import { Empty, keepsFocus, PrimaryButton, QuietButton, SecondaryButton } from "../shared/parts";
import { Tip } from "../shared/Tip";
import { buildPath, parseChosen, useAddress } from "./address";
import { keysOf } from "./commands";
import { JobName } from "./JobName";
import { KeySheet } from "./KeySheet";
import { useSpokenChanges, useSpokenDeliveries } from "./spoken";
import { WorkbenchStore } from "./store";
import { useKeys } from "./useKeys";
import { useBench, useCanRun, useWorkbench, WorkbenchProvider } from "./useWorkbench";
import { Workbench } from "./Workbench";

export function WorkbenchPage() {
  return <Workbench uploads={useOutletContext<Uploads>()} />;
}

export function DeliveryPage() {
  const bench = useBench();
  const job = useWorkbench((state) => state.job);
  const changing = useWorkbench((state) => state.changing);
  const range = useWorkbench((state) => state.range);
  return (
    <DeliveryView
      job={job}
      changing={changing}
      range={range}
      onRange={(to) => bench.setDeliveryRange(to)}
      selected={() => bench.session.selected}
      kept={bench.state.deliveryChoice}
      onKeep={bench.keepDeliveryChoice}
      onAdd={(steps) => bench.do({ kind: "add", steps })}
    />
  );
}

export function JobPage() {
  const { job: id = "" } = useParams();
  return <Opened key={id} id={id} />;
}

function Opened({ id }: { id: string }) {
  const worksheet = useWorksheet(id, tellProblem);
  const { job, problem } = useWorksheetState(worksheet);
  // A look in the background that fails leaves the page as it is; but a job that was deleted is gone.
  if (job && problem?.code !== "not-found") return <Loaded job={job} worksheet={worksheet} />;
  return (
    <Flex as="main" h="100%">
      {problem ? (
        <Empty page title={problem.message}>
          <QuietButton onClick={() => void worksheet.look()}>Try again</QuietButton> ·{" "}
          <Link to="/">Back to all jobs</Link>
        </Empty>
      ) : (
        <Empty page title="Opening the job…">
          {null}
        </Empty>
      )}
    </Flex>
  );
}

function Loaded({ job, worksheet }: { job: Job; worksheet: Worksheet }) {
  const bench = useNewBench(job, worksheet);
  useAddress(bench);
  useKeys(bench);
  useSpokenChanges(worksheet);
  useSpokenDeliveries(bench);
  return (
    <WorkbenchProvider value={bench}>
      <KeysOf value={keysOf}>
        <ListenProvider session={bench.session}>
          <Page />
        </ListenProvider>
      </KeysOf>
    </WorkbenchProvider>
  );
}

function Page() {
  const bench = useBench();
  const job = useWorkbench((state) => state.job);
  const changing = useWorkbench((state) => state.changing);
  const dialog = useWorkbench((state) => state.dialog);
  const sending = useUploads(job);
  const uploads: Uploads = {
    ...sending,
    add: (files) => {
      const onTheirWay = sending.all.filter(({ problem }) => !problem);
      bench.awaitFiles([...onTheirWay, ...files].map(({ file }) => file.name));
      sending.add(files);
    },
  };
  return (
    // On a small screen, or at 200 %, the panes stand below each other and the page scrolls.
    <Flex
      direction="column"
      h={{ base: "auto", lg: "100%" }}
      minH={{ lg: "560px" }}
      overflow={{ lg: "hidden" }}
    >
      <TopBar />
      <Flex as="main" aria-busy={changing} flex={1} minH={0} overflowY={{ lg: "auto" }} direction="column">
        <Outlet context={uploads} />
      </Flex>
      <DropArea onFiles={uploads.add} />
      <KeySheet open={dialog === "keys"} onClose={() => bench.openDialog(null)} />
      <History
        job={job.id}
        onRestore={(revision) => bench.do({ kind: "restore", revision })}
        onRestoreLine={(revision, step) => bench.do({ kind: "restoreLine", revision, step })}
        onHear={(line) => bench.compare(line)}
        open={dialog === "history"}
        onClose={() => bench.openDialog(null)}
      />
    </Flex>
  );
}

function TopBar() {
  const bench = useBench();
  const job = useWorkbench((state) => state.job);
  const delivering = useWorkbench((state) => state.screen === "delivery");
  const path = useWorkbench((state) => buildPath(state.job, state));
  const unsaved = useWorkbench((state) => state.unsaved);
  const canUndo = useCanRun("undo");
  const canRedo = useCanRun("redo");
  const label = useLabel();
  return (
    <Flex as="header" layerStyle="bar" gap={{ base: 2, xl: 3 }}>
      <Link to="/" aria-label="All jobs">
        <Mark />
      </Link>
      <JobName id={job.id} name={job.name} />
      <Text layerStyle="quiet" flexShrink={0}>
        {count(job.sources.length, "file")}, {count(job.steps.length, "turn")}
      </Text>
      <Text layerStyle="warning" flex={1} flexShrink={0} role="status">
        {unsaved > 0 && `${count(unsaved, "change")} not saved yet`}
      </Text>
      <Tip text={label("Undo", "undo")}>
        <QuietButton disabled={!canUndo} onClick={() => bench.undo()}>
          Undo
        </QuietButton>
      </Tip>
      <Tip text={label("Redo", "redo")}>
        <QuietButton disabled={!canRedo} onClick={() => bench.redo()}>
          Redo
        </QuietButton>
      </Tip>
      <QuietButton {...keepsFocus} onClick={() => bench.openDialog("history")}>
        History
      </QuietButton>
      <Tip text={label("Keyboard shortcuts", "showKeys")}>
        <QuietButton aria-label="Keyboard shortcuts" onClick={() => bench.openDialog("keys")}>
          <CircleQuestionMark size={16} />
        </QuietButton>
      </Tip>
      <ColorModeButton />
      {delivering ? (
        <SecondaryButton size="sm" asChild>
          <Link to={path}>Back to the worksheet</Link>
        </SecondaryButton>
      ) : (
        job.ends.length > 0 && (
          <Tip text={label(`Review and deliver ${count(job.ends.length, "file")}`, "deliver")}>
            <PrimaryButton onClick={() => bench.goTo("delivery")}>Review and deliver…</PrimaryButton>
          </Tip>
        )
      )}
    </Flex>
  );
}

/** The workbench of a job, as long as it is on the page. */
function useNewBench(job: Job, worksheet: Worksheet): WorkbenchStore {
  const queries = useQueryClient();
  const { pathname } = useLocation();
  const session = useNewSession({
    loudness: ({ view, key }) =>
      queries.fetchQuery(measuresOf(view, key)).then(({ measures: { whole } }) => ({
        loudness: whole.loudness_lufs,
        truePeak: whole.true_peak_dbtp,
      })),
    onProblem: (problem) => tellFailure(problem, () => session.toggle()),
  });
  const [bench] = useState(
    () =>
      new WorkbenchStore(
        {
          worksheet,
          session,
          makeDraft,
          makeComparison,
          deliver: deliverDirectly,
          save: saveDelivery,
          tell,
          tellProblem,
        },
        job,
        parseChosen(pathname, job),
      ),
  );
  return bench;
}
