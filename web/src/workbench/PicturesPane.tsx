/** What is chosen, seen and heard as In and Out, with what can be moved on the pictures. */
import { Flex } from "@chakra-ui/react";
import { useLayoutEffect, useMemo } from "react";
import type { WedgeSettings } from "../api/turns";
import { type Labels, Pictures } from "../features/listen";
import { kindOf, useHushes } from "../features/turns";
import { filmOf } from "./filmOf";
import { lanesOf, lanesOfVersions } from "./lanes";
import { findDraft } from "./previews";
import { usePlace } from "./usePlace";
import { useBench, useWorkbench } from "./useWorkbench";
import { askedQuestion, clipsOf, shownFiles, shownJob, shownStep } from "./view";

const LABELS: Labels = ["In", "Out", "In − Out"];
const VERSIONS: Labels = ["Then", "Now", "Then − Now"];

export function PicturesPane() {
  const bench = useBench();
  const current = useWorkbench((state) => state.job);
  const tried = useWorkbench(findDraft);
  const preview = useWorkbench((state) => state.preview);
  const question = useWorkbench(askedQuestion);
  const job = useWorkbench(shownJob);
  const step = useWorkbench(shownStep);
  const files = useWorkbench(shownFiles);
  const place = usePlace();
  const version = preview?.kind === "version" ? preview.line : null;
  const [input, output] = useMemo(() => {
    if (version) return lanesOfVersions(tried, current, version.step);
    // An answer of several turns is compared with the file, not with what the turn before made of it.
    const line = step && question ? { ...step, inputs: question.inputs } : step;
    return lanesOf(line, files, clipsOf(job));
  }, [version, tried, current, step, question, files, job]);
  const rate = input?.clips[0]?.rate ?? 48_000;
  // What is only tried is not changed: it is taken first.
  const own = preview ? null : step;
  const overlay = own && kindOf(own.turn).overlay;
  const settings = (own && overlay?.wedge(own.turn, rate)) ?? null;
  const taken = own !== null && overlay?.showsTaken(own.turn) === true;
  const moveWedge = (change: Partial<WedgeSettings>) => {
    if (own && overlay) bench.change(own.id, { turn: overlay.moved(own.turn, change) });
  };
  const hushes = useHushes(own, rate, place, (id, change) => bench.change(id, change));
  useLayoutEffect(() => bench.setHushes(hushes), [bench, hushes]);
  const film = useMemo(() => filmOf(job, input?.clips.map((clip) => clip.ref) ?? []), [job, input]);
  const labels = version ? VERSIONS : step ? kindOf(step.turn).lanes(step, step.turn).labels : LABELS;
  // A wedge is moved where the energy is seen.
  const picture = settings || taken ? "map" : "wave";
  useLayoutEffect(
    () =>
      bench.session.show(
        { job: job.id, revision: job.head, input, output, labels, picture },
        tried ?? bench.worksheet.store.getState().job ?? job,
      ),
    [bench, job, tried, input, output, labels, picture],
  );
  return (
    <Flex direction="column" flex={1} minH={0}>
      <Pictures
        overlay={{ wedge: settings || taken ? { settings, onChange: moveWedge } : null, hushes }}
        film={film}
      />
    </Flex>
  );
}
