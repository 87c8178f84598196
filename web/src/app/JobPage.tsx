/** One job: its top bar, and the workbench or the delivery below it. */
import { Flex, Text } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { CircleQuestionMark } from "lucide-react";
import { useEffect, useState } from "react";
import { Link, Outlet, useLocation, useMatch, useNavigate, useOutletContext, useParams } from "react-router";
import type { DeliveryRange, Job } from "../api/client";
import { measuresOf } from "../api/queries";
import { useWorksheet, useWorksheetState } from "../api/useWorksheet";
import type { Worksheet } from "../api/worksheet";
import { DeliveryView, type KeptChoice } from "../features/delivery";
import { type Compared, History } from "../features/history";
import { ListenProvider, useNewSession, useSession } from "../features/listen";
import { DropArea, type Uploads, useUploads } from "../features/sources";
import { ColorModeButton } from "../shared/ColorModeButton";
import { count } from "../shared/format";
import { CTRL, useShortcuts } from "../shared/keys";
import { Mark } from "../shared/Mark";
import { tellFailure, tellProblem } from "../shared/notices";
import { Empty, keepsFocus, PrimaryButton, QuietButton } from "../shared/parts";
import { Tip } from "../shared/Tip";
import { JobName } from "./JobName";
import { KeySheet } from "./KeySheet";
import { useSpokenChanges } from "./spoken";
import { Workbench } from "./Workbench";

type JobContext = {
  job: Job;
  changing: boolean;
  worksheet: Worksheet;
  uploads: Uploads;
  range: DeliveryRange;
  setRange: (range: DeliveryRange) => void;
  kept: KeptChoice | null;
  keep: (choice: KeptChoice) => void;
  /** A line of an earlier version that is heard against what it is now. */
  compared: Compared | null;
  compare: (line: Compared | null) => void;
};

export function WorkbenchPage() {
  const { job, worksheet, uploads, compared, compare } = useOutletContext<JobContext>();
  return <Workbench job={job} edits={worksheet} uploads={uploads} compared={compared} onCompare={compare} />;
}

export function DeliveryPage() {
  const { job, changing, worksheet, range, setRange, kept, keep } = useOutletContext<JobContext>();
  const session = useSession();
  return (
    <DeliveryView
      job={job}
      changing={changing}
      range={range}
      onRange={setRange}
      selected={() => session.selected}
      kept={kept}
      onKeep={keep}
      onAdd={(steps) => void worksheet.do({ kind: "add", steps })}
    />
  );
}

export function JobPage() {
  const { job: id = "" } = useParams();
  return <Opened key={id} id={id} />;
}

function Opened({ id }: { id: string }) {
  const worksheet = useWorksheet(id, tellProblem);
  const { job, changing, problem } = useWorksheetState(worksheet);
  // A look in the background that fails leaves the page as it is; but a job that was deleted is gone.
  if (job && problem?.code !== "not-found")
    return <Loaded job={job} changing={changing} worksheet={worksheet} />;
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

function Loaded(props: { job: Job; changing: boolean; worksheet: Worksheet }) {
  const { job, changing, worksheet } = props;
  const session = useListenSession(worksheet);
  useSpokenChanges(worksheet);
  const uploads = useUploads(job);
  const navigate = useNavigate();
  const delivering = useMatch("/jobs/:job/delivery") !== null;
  const [sheet, setSheet] = useState(false);
  const [history, setHistory] = useState(false);
  const [compared, compare] = useState<Compared | null>(null);
  // Here, so that a look at the worksheet doesn't lose them.
  const [range, setRange] = useState<DeliveryRange>(null);
  const [kept, keep] = useState<KeptChoice | null>(null);
  const undo = () => worksheet.do({ kind: "undo" });
  const redo = () => worksheet.do({ kind: "redo" });
  const { pathname, search, state } = useLocation();
  const deliver = () => {
    if (!delivering) void navigate(`/jobs/${job.id}/delivery`, { state: { from: pathname + search } });
  };
  useShortcuts("Everywhere", [
    { keys: ["Ctrl+z"], text: "undo", repeats: true, run: undo },
    { keys: ["Ctrl+Shift+z", "Ctrl+y"], text: "redo", shown: `Shift ${CTRL} Z`, repeats: true, run: redo },
    { keys: ["d"], text: "review and deliver", run: deliver },
    { keys: ["?"], text: "show this list", run: () => setSheet(true) },
  ]);
  return (
    <Flex direction="column" h="100%" minW="1080px" minH="560px" overflow="hidden">
      <Flex
        as="header"
        align="center"
        gap={3}
        px={4}
        h={14}
        borderBottomWidth={1}
        borderColor="line"
        flexShrink={0}
      >
        <Link to="/" aria-label="All jobs">
          <Mark />
        </Link>
        <JobName id={job.id} name={job.name} />
        <Text color="fg.quiet" flex={1} flexShrink={0}>
          {count(job.sources.length, "file")}, {count(job.steps.length, "turn")}
        </Text>
        <Tip text={`Undo (${CTRL} Z)`}>
          <QuietButton disabled={!job.can_undo} onClick={undo}>
            Undo
          </QuietButton>
        </Tip>
        <Tip text={`Redo (Shift ${CTRL} Z)`}>
          <QuietButton disabled={!job.can_redo} onClick={redo}>
            Redo
          </QuietButton>
        </Tip>
        <QuietButton {...keepsFocus} onClick={() => setHistory(true)}>
          History
        </QuietButton>
        <Tip text="Keyboard shortcuts (?)">
          <QuietButton aria-label="Keyboard shortcuts" onClick={() => setSheet(true)}>
            <CircleQuestionMark size={16} />
          </QuietButton>
        </Tip>
        <ColorModeButton />
        {delivering ? (
          <QuietButton size="sm" asChild color="fg" borderWidth={1} borderColor="line">
            <Link to={state?.from ?? `/jobs/${job.id}`}>Back to the worksheet</Link>
          </QuietButton>
        ) : (
          job.ends.length > 0 && (
            <Tip text={`Review and deliver ${count(job.ends.length, "file")} (d)`}>
              <PrimaryButton onClick={deliver}>Review and deliver…</PrimaryButton>
            </Tip>
          )
        )}
      </Flex>
      <Flex as="main" aria-busy={changing} flex={1} minH={0} overflowY="auto" direction="column">
        <ListenProvider session={session}>
          <Outlet
            context={
              {
                job,
                changing,
                worksheet,
                uploads,
                range,
                setRange,
                kept,
                keep,
                compared,
                compare,
              } satisfies JobContext
            }
          />
        </ListenProvider>
      </Flex>
      <DropArea onFiles={uploads.add} />
      <KeySheet open={sheet} onClose={() => setSheet(false)} />
      <History
        job={job.id}
        onRestore={(revision) => worksheet.do({ kind: "restore", revision })}
        onRestoreLine={(revision, step) => worksheet.do({ kind: "restoreLine", revision, step })}
        onHear={(line) => {
          compare(line);
          setHistory(false);
          if (delivering) void navigate(`/jobs/${job.id}`);
        }}
        open={history}
        onClose={() => setHistory(false)}
      />
    </Flex>
  );
}

/** The listening session of a job. A changed setting is fetched as soon as it is answered, before the page is drawn. */
function useListenSession(worksheet: Worksheet) {
  const queries = useQueryClient();
  const session = useNewSession({
    loudness: ({ view, key }) =>
      queries.fetchQuery(measuresOf(view, key)).then(({ measures: { whole } }) => ({
        loudness: whole.loudness_lufs,
        truePeak: whole.true_peak_dbtp,
      })),
    onProblem: (problem) => tellFailure(problem, () => session.toggle()),
  });
  useEffect(() => worksheet.onArrival((job) => session.updateClips(job)), [worksheet, session]);
  return session;
}
