/** The demo's job, made by the server when somebody wants to see it. */
import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { getDemo, makeDemo } from "../../api/actions";
import { Problem } from "../../api/client";
import { tellProblem } from "../../shared/notices";
import { wait } from "../../shared/wait";

const LOOK_EVERY = 400; // milliseconds

/** How far it is, from 0 to 1, null where it isn't being made; and opening it as soon as it is there. */
export function useDemo() {
  const [progress, setProgress] = useState<number | null>(null);
  const navigate = useNavigate();
  // A server that was started with the demo makes it by itself; the list of jobs then has it.
  useEffect(() => {
    followDemo(setProgress).catch(() => setProgress(null));
  }, []);
  const open = () => {
    setProgress(0);
    waitForDemo(setProgress)
      .then((job) => navigate(`/jobs/${job}`))
      .catch((problem) => {
        setProgress(null);
        tellProblem(problem);
      });
  };
  return { progress, open };
}

/** Tell how far it is while it is being made. */
async function followDemo(onProgress: (progress: number | null) => void) {
  for (let demo = await getDemo(); demo.state === "making"; demo = await getDemo()) {
    onProgress(demo.progress ?? 0);
    await wait(LOOK_EVERY);
  }
  onProgress(null);
}

/** The id of the demo's job, once it is there. */
async function waitForDemo(onProgress: (progress: number) => void): Promise<string> {
  let demo = await makeDemo();
  while (demo.state === "making") {
    onProgress(demo.progress ?? 0);
    await wait(LOOK_EVERY);
    demo = await getDemo();
  }
  if (demo.job) return demo.job;
  throw new Problem("demo", "The demo couldn’t be made", "Check that the disk has room, and try again.");
}
