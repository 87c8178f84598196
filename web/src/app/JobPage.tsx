/** One job: its top bar, and the workbench or the delivery below it. */
import { Flex, Text } from "@chakra-ui/react";
import { CircleQuestionMark } from "lucide-react";
import { useState } from "react";
import { Link, Route, Routes, useNavigate, useParams } from "react-router";
import { useJobActions } from "../api/actions";
import type { Job } from "../api/client";
import { useJob } from "../api/queries";
import { DeliveryView } from "../features/delivery";
import { History } from "../features/history";
import { DropArea, useUploads } from "../features/sources";
import { count } from "../shared/format";
import { useShortcuts } from "../shared/keys";
import { Mark } from "../shared/Mark";
import { tellProblem } from "../shared/notices";
import { Empty, PrimaryButton, QuietButton } from "../shared/parts";
import { ColorModeButton } from "./ColorModeButton";
import type { ColorMode } from "./colorMode";
import { KeySheet } from "./KeySheet";
import { Workbench } from "./Workbench";

type Colors = { mode: ColorMode; onToggle: () => void };

export function JobPage(colors: Colors) {
  const { job: id = "" } = useParams();
  const job = useJob(id);
  if (job.isError)
    return (
      <Flex h="100%">
        <Empty title={job.error.message}>
          <Link to="/">Go to the jobs</Link>
        </Empty>
      </Flex>
    );
  return job.data ? <Loaded key={id} job={job.data} {...colors} /> : null;
}

function Loaded({ job, mode, onToggle }: { job: Job } & Colors) {
  const actions = useJobActions(job.id);
  const uploads = useUploads(job);
  const navigate = useNavigate();
  const [sheet, setSheet] = useState(false);
  const [history, setHistory] = useState(false);
  const undo = () => job.can_undo && actions.undo.mutate(undefined, { onError: tellProblem });
  const redo = () => job.can_redo && actions.redo.mutate(undefined, { onError: tellProblem });
  const deliver = () => navigate(`/jobs/${job.id}/delivery`);
  useShortcuts({
    "Ctrl+z": undo,
    "Ctrl+Shift+z": redo,
    d: deliver,
    "?": () => setSheet(true),
  });
  return (
    <Flex direction="column" h="100%" minW="960px" overflow="hidden">
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
        <Link to="/" title="All jobs">
          <Mark />
        </Link>
        <Text as="h1" fontWeight={700} fontSize="lg" truncate>
          {job.name}
        </Text>
        <Text color="fg.quiet" flex={1} flexShrink={0}>
          {count(job.sources.length, "file")}, {count(job.steps.length, "turn")}
        </Text>
        <QuietButton disabled={!job.can_undo} title="Undo (Ctrl Z)" onClick={undo}>
          Undo
        </QuietButton>
        <QuietButton disabled={!job.can_redo} title="Redo (Shift Ctrl Z)" onClick={redo}>
          Redo
        </QuietButton>
        <QuietButton onClick={() => setHistory(true)}>History</QuietButton>
        <QuietButton aria-label="Keys" title="Keys (?)" onClick={() => setSheet(true)}>
          <CircleQuestionMark size={16} />
        </QuietButton>
        <ColorModeButton mode={mode} onToggle={onToggle} />
        <Routes>
          <Route
            path="delivery"
            element={
              <QuietButton
                size="sm"
                onClick={() => navigate(`/jobs/${job.id}`)}
                color="fg"
                borderWidth={1}
                borderColor="line"
              >
                Back to the worksheet
              </QuietButton>
            }
          />
          <Route
            path="*"
            element={
              job.ends.length > 0 && (
                <PrimaryButton onClick={deliver} title="Deliver (d)">
                  Deliver {count(job.ends.length, "file")}
                </PrimaryButton>
              )
            }
          />
        </Routes>
      </Flex>
      <Flex flex={1} minH={0} overflowY="auto" direction="column">
        <Routes>
          <Route path="delivery" element={<DeliveryView job={job} actions={actions} />} />
          <Route
            path="*"
            element={<Workbench job={job} actions={actions} uploads={uploads} dark={mode === "dark"} />}
          />
        </Routes>
      </Flex>
      <DropArea onFiles={uploads.add} />
      <KeySheet open={sheet} onClose={() => setSheet(false)} />
      <History job={job.id} actions={actions} open={history} onClose={() => setHistory(false)} />
    </Flex>
  );
}
