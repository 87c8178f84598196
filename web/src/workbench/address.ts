/** The address says what is shown: a line of the worksheet or a file, and the picture of it. */
import { useEffect, useEffectEvent, useRef } from "react";
import { useLocation, useNavigate, useSearchParams } from "react-router";
import type { Job } from "../api/client";
import { isPicture, useListen, useSession } from "../features/listen";
import type { Screen, WorkbenchStore } from "./store";

/** Who moves on within this time passes by: the way back does not lead there. */
const PASSING = 1000; // milliseconds

type Chosen = { line: string | null; files: readonly string[] };

/** What an address says is chosen; the first line where it says nothing. */
export function parseChosen(path: string, job: Job): Chosen {
  const [, , , kind, item] = path.split("/");
  if (kind === "lines") return { line: item ?? null, files: [] };
  if (kind !== "files") return { line: job.steps[0]?.id ?? null, files: [] };
  const file = job.sources.find((source) => source.id === item);
  return { line: null, files: file ? [file.ref] : [] };
}

/** The address of what is chosen: of several files it names the last. */
export function buildPath(job: Job, { line, files }: Chosen): string {
  const file = job.sources.find((source) => source.ref === files.at(-1));
  return `/jobs/${job.id}/${line ? `lines/${line}` : file ? `files/${file.id}` : "files"}`;
}

export const parseScreen = (path: string): Screen => (path.endsWith("/delivery") ? "delivery" : "worksheet");

/** The address follows what is chosen, and leads to it: back, forward, a link. */
export function useAddress(bench: WorkbenchStore) {
  const { pathname } = useLocation();
  const navigate = useNavigate();
  const moved = useRef(0);
  /** The path that was gone to here last. Another one comes from the browser. */
  const lastPath = useRef(pathname);
  const go = useEffectEvent((path: string, replace: boolean) => {
    lastPath.current = path;
    void navigate(path + window.location.search, { replace });
  });
  const leadTo = useEffectEvent((path: string) => {
    const screen = parseScreen(path);
    const { line, files } = bench.state;
    const comesBack =
      screen === "delivery" ||
      path === lastPath.current ||
      path === buildPath(bench.state.job, { line, files });
    lastPath.current = path;
    bench.followAddress(screen, comesBack ? undefined : parseChosen(path, bench.state.job));
  });
  useEffect(() => leadTo(pathname), [pathname]);
  useEffect(() => {
    return bench.store.subscribe((now, before) => {
      if (now.screen !== "worksheet" || (now.line === before.line && now.files === before.files)) return;
      const gone = before.line !== null && !now.job.steps.some(({ id }) => id === before.line);
      const passing = Date.now() - moved.current < PASSING;
      moved.current = Date.now();
      const path = buildPath(now.job, now);
      if (path !== lastPath.current) go(path, gone || passing);
    });
  }, [bench]);
  useEffect(
    () =>
      bench.start((screen) => {
        const { job } = bench.state;
        // A key right after a link comes before the screen that the link leads to.
        if (screen === parseScreen(window.location.pathname)) return;
        go(screen === "delivery" ? `/jobs/${job.id}/delivery` : buildPath(job, bench.state), false);
      }),
    [bench],
  );
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
