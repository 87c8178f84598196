/** Playing a short sound in a loop through a matrix of two by two, which may change while it sounds. */
export type Matrix = readonly [number, number, number, number];
const RATE = 48_000;

export class Loop {
  private context: AudioContext | null = null;
  private source: AudioBufferSourceNode | null = null;
  private gains: GainNode[] = [];
  private analyser: AnalyserNode[] = [];
  private request = 0;

  /** Play what comes, unless something else was asked for before it came. */
  async play(coming: Promise<Float32Array> | Float32Array, matrix: Matrix) {
    this.stop();
    const request = ++this.request;
    const samples = await coming;
    if (request !== this.request) return;
    this.context ??= new AudioContext({ sampleRate: RATE });
    const { context } = this;
    await context.resume();
    if (request !== this.request) return;
    const frames = samples.length / 2;
    const buffer = context.createBuffer(2, frames, RATE);
    for (const side of [0, 1] as const) {
      const channel = new Float32Array(frames);
      for (let n = 0; n < frames; n++) channel[n] = samples[2 * n + side] ?? 0;
      buffer.copyToChannel(channel, side);
    }
    const source = context.createBufferSource();
    source.buffer = buffer;
    source.loop = true;
    const split = context.createChannelSplitter(2);
    const merge = context.createChannelMerger(2);
    source.connect(split);
    this.gains = matrix.map((amount, n) => {
      const gain = context.createGain();
      gain.gain.value = amount;
      split.connect(gain, n % 2);
      gain.connect(merge, 0, n < 2 ? 0 : 1);
      return gain;
    });
    const heard = context.createChannelSplitter(2);
    merge.connect(context.destination);
    merge.connect(heard);
    this.analyser = [0, 1].map((side) => {
      const analyser = context.createAnalyser();
      analyser.fftSize = 1024;
      heard.connect(analyser, side);
      return analyser;
    });
    source.start();
    this.source = source;
  }

  /** Out left = ll·L + lr·R, out right = rl·L + rr·R. */
  set(matrix: Matrix) {
    matrix.forEach((amount, n) => {
      const gain = this.gains[n]?.gain;
      if (gain && this.context) gain.setTargetAtTime(amount, this.context.currentTime, 0.01);
    });
  }

  /** The last samples heard, left and right. */
  heard(): [Float32Array<ArrayBuffer>, Float32Array<ArrayBuffer>] | null {
    const [left, right] = this.analyser;
    if (!this.source || !left || !right) return null;
    const channels: [Float32Array<ArrayBuffer>, Float32Array<ArrayBuffer>] = [
      new Float32Array(1024),
      new Float32Array(1024),
    ];
    left.getFloatTimeDomainData(channels[0]);
    right.getFloatTimeDomainData(channels[1]);
    return channels;
  }

  stop() {
    this.request++;
    this.source?.stop();
    this.source = null;
  }

  close() {
    this.stop();
    void this.context?.close();
    this.context = null;
  }
}
