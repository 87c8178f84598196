/** The demo's job, made by the server when somebody wants to see it. */
import { useState } from "react";
import { useNavigate } from "react-router";
import { getDemo, makeDemo } from "../../api/actions";
import { Problem } from "../../api/client";
import { tellProblem } from "../../shared/notices";
import { wait } from "../../shared/wait";

const LOOK_EVERY = 400; // milliseconds

/** How far it is, from 0 to 1, null where nobody has asked for it; and opening it as soon as it is there. */
export function useDemo() {
  const [progress, setProgress] = useState<number | null>(null);
  const navigate = useNavigate();
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
