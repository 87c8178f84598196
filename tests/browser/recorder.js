// Puts a recorder beside whatever is connected to the speakers, before the page's own scripts run.
// What it heard, from the first sample that is not silence on, is in window.heard as [left, right].
const source = `
registerProcessor("test-recorder", class extends AudioWorkletProcessor {
  process(inputs) {
    const [left, right] = inputs[0] ?? [];
    if (left) this.port.postMessage([left.slice(), (right ?? left).slice()]);
    return true;
  }
});`;
window.heard = [[], []];
window.rates = [];
const connect = AudioNode.prototype.connect;
const addModule = AudioWorklet.prototype.addModule;
AudioWorklet.prototype.addModule = async function (url, options) {
  await addModule.call(this, URL.createObjectURL(new Blob([source], { type: "text/javascript" })));
  return addModule.call(this, url, options);
};
AudioNode.prototype.connect = function (target, ...rest) {
  if (target instanceof AudioDestinationNode && !(this instanceof GainNode)) {
    const recorder = new AudioWorkletNode(this.context, "test-recorder", { numberOfOutputs: 0 });
    window.rates.push(this.context.sampleRate);
    recorder.port.onmessage = ({ data }) => {
      if (!window.heard[0].length && data.every((channel) => channel.every((sample) => sample === 0))) return;
      for (const ear of [0, 1]) window.heard[ear].push(...data[ear]);
    };
    connect.call(this, recorder);
  }
  return connect.call(this, target, ...rest);
};
