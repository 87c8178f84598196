/** The address says what is shown: a line of the worksheet or a file, and the picture of it. */
import { useCallback, useEffect, useEffectEvent, useRef, useState } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import type { Job } from "../api/client";
import { isPicture, useListen, useSession } from "../features/listen";

/** Who moves on within this time passes by: the way back does not lead there. */
const PASSING = 1000; // milliseconds

type Choice = { line: string | null; files: string[] };

/** What an address says is chosen; the first line where it says nothing. */
function choiceIn(kind: string | undefined, item: string | undefined, job: Job): Choice {
  if (kind === "lines") return { line: item ?? null, files: [] };
  if (kind !== "files") return { line: job.steps[0]?.id ?? null, files: [] };
  const file = job.sources.find((source) => source.id === item);
  return { line: null, files: file ? [file.ref] : [] };
}

type Lines = readonly { id: string }[];

/** Of the lines that are left, the nearest one before a line that is gone; the first where none is. */
export function nearestLeft(before: Lines, now: Lines, gone: string): string | null {
  const left = new Set(now.map(({ id }) => id));
  const above = before.slice(
    0,
    Math.max(
      0,
      before.findIndex(({ id }) => id === gone),
    ),
  );
  return above.findLast(({ id }) => left.has(id))?.id ?? now[0]?.id ?? null;
}

/** What is chosen: a line, or files of which the address names the last. */
export function useChosen(job: Job) {
  const { kind, item } = useParams();
  const navigate = useNavigate();
  const [choice, setChoice] = useState(() => choiceIn(kind, item, job));
  const moved = useRef(0);
  /** The path that was chosen here last. Another one comes from the browser: back, forward, a link. */
  const lastPath = useRef(window.location.pathname);
  const go = useCallback(
    (path: string, choice: Choice, replace = false) => {
      const passing = Date.now() - moved.current < PASSING;
      moved.current = Date.now();
      setChoice(choice);
      lastPath.current = `/jobs/${job.id}${path}`;
      void navigate(lastPath.current + window.location.search, { replace: replace || passing });
    },
    [navigate, job.id],
  );
  const followAddress = useEffectEvent((kind: string | undefined, item: string | undefined) => {
    if (window.location.pathname === lastPath.current) return;
    lastPath.current = window.location.pathname;
    setChoice(choiceIn(kind, item, job));
  });
  useEffect(() => followAddress(kind, item), [kind, item]);

  const chooseLine = useCallback(
    (line: string | null) => go(line ? `/lines/${line}` : "/files", { line, files: [] }),
    [go],
  );
  const chooseFiles = (files: string[]) => {
    const last = job.sources.find((source) => source.ref === files.at(-1));
    go(last ? `/files/${last.id}` : "/files", { line: null, files });
  };

  // A line that is gone, by an undo here or in another window, leaves the nearest one before it chosen that is still
  // there; where nothing is left to be chosen, one that comes back is.
  const before = useRef(job.steps);
  const { line, files } = choice;
  const nothing = !line && files.length === 0;
  useEffect(() => {
    if (line && !job.steps.some((step) => step.id === line)) {
      const next = nearestLeft(before.current, job.steps, line);
      go(next ? `/lines/${next}` : "", { line: next, files: [] }, true);
    }
    const [last] = job.steps.slice(-1);
    if (nothing && last && before.current.length === 0)
      go(`/lines/${last.id}`, { line: last.id, files: [] }, true);
    before.current = job.steps;
  }, [job.steps, line, nothing, go]);
  return { stepId: line, chosen: choice.files, chooseLine, chooseFiles };
}

/** The picture that is shown stands in the address, and one that stands there is shown. */
export function usePictureInAddress() {
  const session = useSession();
  const picture = useListen((state) => state.picture);
  const [params, setParams] = useSearchParams();
  const asked = params.get("view");
  const lastView = useRef<string | null>(null);
  useEffect(() => {
    if (asked !== lastView.current && isPicture(asked)) session.look.setPicture(asked);
    lastView.current = asked;
  }, [asked, session]);
  useEffect(() => {
    if (session.store.getState().picture !== picture || lastView.current === picture) return;
    if (picture === "wave" && lastView.current === null) return;
    lastView.current = picture;
    setParams({ view: picture }, { replace: true });
  }, [picture, session, setParams]);
}
