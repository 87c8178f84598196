/** The mixer's place in the audio graph. */
import type { ToGraph } from "./messages";
import { Mixer } from "./mixer";

declare const sampleRate: number;
declare function registerProcessor(name: string, processor: unknown): void;
declare class AudioWorkletProcessor {
  readonly port: MessagePort;
}

class PlayerProcessor extends AudioWorkletProcessor {
  private mixer = new Mixer(sampleRate, (message) => this.port.postMessage(message));

  constructor() {
    super();
    this.port.onmessage = (event: MessageEvent<ToGraph>) => this.mixer.take(event.data);
  }

  process(_: Float32Array[][], outputs: Float32Array[][]): boolean {
    const [left, right] = outputs[0] ?? [];
    if (left && right) this.mixer.render(left, right);
    return true;
  }
}

registerProcessor("wedge-turn-player", PlayerProcessor);
