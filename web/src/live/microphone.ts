// Records with the microphone: levels while it runs, a WAV file in the end.
import recorderURL from "./recorder.worklet.ts?worker&url";
import { wav } from "./recording";

/** The most that is recorded, seconds: what a layer may last. */
export const mostSeconds = 12;

export interface Take {
  /** Ends it and gives what was recorded, from when keep was called. */
  stop: () => Promise<File>;
  /** What comes from now on is kept. */
  keep: () => void;
  cancel: () => void;
}

export async function record(onLevel: (peak: number, seconds: number) => void): Promise<Take> {
  if (!navigator.mediaDevices?.getUserMedia) throw new DOMException("none", "NotFoundError");
  const stream = await navigator.mediaDevices.getUserMedia({
    audio: { echoCancellation: false, noiseSuppression: false, autoGainControl: false, channelCount: 1 },
  });
  const context = new AudioContext();
  const blocks: Float32Array[] = [];
  let frames = 0;
  let kept = false;
  const end = () => {
    for (const t of stream.getTracks()) t.stop();
    void context.close();
  };
  try {
    await context.audioWorklet.addModule(recorderURL);
    const node = new AudioWorkletNode(context, "recorder", { numberOfOutputs: 0 });
    context.createMediaStreamSource(stream).connect(node);
    node.port.onmessage = (e: MessageEvent<Float32Array>) => {
      let peak = 0;
      for (const v of e.data) peak = Math.max(peak, Math.abs(v));
      if (kept && frames < mostSeconds * context.sampleRate) {
        blocks.push(e.data);
        frames += e.data.length;
      }
      onLevel(peak, frames / context.sampleRate);
    };
  } catch (e) {
    end();
    throw e;
  }
  return {
    keep: () => {
      kept = true;
    },
    cancel: end,
    stop: async () => {
      const rate = context.sampleRate;
      end();
      return new File([wav(blocks, frames, rate)], "Recording.wav", { type: "audio/wav" });
    },
  };
}
