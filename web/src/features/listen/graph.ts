/** The audio graph that the player plays into: opened for one sample rate, since nothing is resampled. */
import type { FromGraph, ToGraph } from "./messages";
import playerUrl from "./player.worklet.ts?worker&url";

export type Graph = {
  send: (message: ToGraph, transfer?: Transferable[]) => void;
  /** Seconds from here to the ear. */
  latency: () => number;
  close: () => void;
};

/** Open a graph that reports to `report`. Where `signal` aborts meanwhile, what was opened is closed again. */
export async function openGraph(
  rate: number,
  report: (message: FromGraph) => void,
  signal: AbortSignal,
): Promise<Graph> {
  if (!window.isSecureContext)
    throw new Error("Playback needs a secure page: open Wedge Turn on localhost or over HTTPS");
  const context = new AudioContext({ sampleRate: rate });
  try {
    await context.audioWorklet.addModule(playerUrl);
    signal.throwIfAborted();
    const node = new AudioWorkletNode(context, "wedge-turn-player", {
      numberOfInputs: 0,
      outputChannelCount: [2],
    });
    node.port.onmessage = (event: MessageEvent<FromGraph>) => report(event.data);
    node.connect(context.destination);
    await context.resume();
    signal.throwIfAborted();
    return {
      send: (message, transfer = []) => node.port.postMessage(message, transfer),
      latency: () => context.outputLatency || 0,
      close: () => {
        node.port.onmessage = null;
        node.disconnect();
        void context.close();
      },
    };
  } catch (problem) {
    void context.close();
    throw problem;
  }
}
