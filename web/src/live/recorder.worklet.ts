// The microphone's samples on their way to the page, in blocks of the browser's.
declare const registerProcessor: (name: string, ctor: unknown) => void;
declare class AudioWorkletProcessor {
  readonly port: MessagePort;
}

class Recorder extends AudioWorkletProcessor {
  process(inputs: Float32Array[][]): boolean {
    const x = inputs[0]?.[0];
    if (x) this.port.postMessage(x.slice());
    return true;
  }
}

registerProcessor("recorder", Recorder);
