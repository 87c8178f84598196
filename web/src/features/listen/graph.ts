/** The audio graph that the player plays into: opened for one sample rate, since nothing is resampled. */

import { Problem } from "../../api/client";
import type { FromGraph, ToGraph } from "./messages";
import playerUrl from "./player.worklet.ts?worker&url";

export type Graph = {
  send: (message: ToGraph, transfer?: Transferable[]) => void;
  /** Seconds from here to the ear. */
  latency: () => number;
  close: () => void;
};

const ENDED = new Problem(
  "sound-ended",
  "The sound ended: the audio device went away, or another program took it",
  "Check the device, then try again.",
);

const NO_DEVICE = new Problem(
  "no-sound-device",
  "No sound: the browser has no audio device to play to",
  "Connect or choose one, and check that this page may play sound, then try again.",
);
/** A context that has not begun by then waits for a device that is not there. */
const BEGIN_WITHIN = 5_000; // milliseconds

/**
 * Seconds from the graph to the ear. Firefox asks its audio process for it while it holds the graph: asked for at every
 * frame, both soon wait for each other and the page stands still. What it tells without asking has to do there.
 */
const latencyOf = (context: AudioContext) =>
  (/Firefox\//.test(navigator.userAgent) ? context.baseLatency : context.outputLatency) || 0;

/** Begin to play. Throws a Problem where the browser finds nothing to play to. */
async function begin(context: AudioContext) {
  let timer: ReturnType<typeof setTimeout> | undefined;
  const late = new Promise<never>((_, reject) => {
    timer = setTimeout(() => reject(NO_DEVICE), BEGIN_WITHIN);
  });
  try {
    await Promise.race([context.resume(), late]);
  } finally {
    clearTimeout(timer);
  }
}

/** A context at this rate. Throws a Problem where the browser has none. */
function contextAt(rate: number): AudioContext {
  try {
    return new AudioContext({ sampleRate: rate });
  } catch {
    const help =
      "The file can still be turned and delivered. Listen in another browser, or to a copy at a common rate.";
    throw new Problem("rate-unsupported", `This browser can’t play sound at ${rate / 1000} kHz`, help);
  }
}

/**
 * Open a graph that reports to `report`, and tells `ended` where the sound ends by itself. Where `signal` aborts
 * meanwhile, what was opened is closed again.
 */
export async function openGraph(
  rate: number,
  report: (message: FromGraph) => void,
  signal: AbortSignal,
  ended: (problem: Problem) => void,
): Promise<Graph> {
  if (!window.isSecureContext)
    throw new Error("Playback needs a secure page: open Wedge Turn on localhost or over HTTPS");
  const context = contextAt(rate);
  try {
    await context.audioWorklet.addModule(playerUrl);
    signal.throwIfAborted();
    const node = new AudioWorkletNode(context, "wedge-turn-player", {
      numberOfInputs: 0,
      outputChannelCount: [2],
    });
    node.port.onmessage = (event: MessageEvent<FromGraph>) => report(event.data);
    node.connect(context.destination);
    await begin(context);
    signal.throwIfAborted();
    const end = () => ended(ENDED);
    context.onstatechange = () => context.state !== "running" && end();
    context.addEventListener("error", end);
    node.onprocessorerror = end;
    return {
      send: (message, transfer = []) => node.port.postMessage(message, transfer),
      latency: () => latencyOf(context),
      close: () => {
        node.port.onmessage = node.onprocessorerror = context.onstatechange = null;
        context.removeEventListener("error", end);
        node.disconnect();
        void context.close();
      },
    };
  } catch (problem) {
    void context.close();
    throw problem;
  }
}
