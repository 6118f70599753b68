// The ring buffer at the end of the sound's way: blocks in from the socket
// worker, 128 frames out at a time. It reports the worker how much has been
// played and the page what leaves it now.
import type { Block, Report } from "./wire";

declare const registerProcessor: (name: string, ctor: unknown) => void;
declare class AudioWorkletProcessor {
  readonly port: MessagePort;
}

const ring = 1 << 15; // frames, 0.7 s

interface Mark {
  at: number;
  block: Block;
}

class Player extends AudioWorkletProcessor {
  private left = new Float32Array(ring);
  private right = new Float32Array(ring);
  private wrote = 0;
  private read = 0;
  private marks: Mark[] = [];
  private now: Block | null = null;
  private dry = 0;
  private least = ring; // frames left at the worst moment since the last message
  private starved = false;
  private peakLeft = 0;
  private peakRight = 0;
  private worker: MessagePort | null = null;
  private sinceReport = 0;
  private reported = 0; // the version last reported

  constructor() {
    super();
    this.port.onmessage = (e: MessageEvent) => {
      this.worker = e.ports[0] ?? null;
      if (this.worker) this.worker.onmessage = (m) => this.take(m.data);
    };
  }

  private take(m: { type: string; block: Block }) {
    if (m.type === "reset") {
      this.wrote = 0;
      this.read = 0;
      this.marks = [];
      return;
    }
    const b = m.block;
    for (let i = 0; i < b.frames; i++) {
      const at = (this.wrote + i) % ring;
      this.left[at] = b.left[i] as number;
      this.right[at] = b.right[i] as number;
    }
    this.marks.push({ at: this.wrote, block: b });
    this.wrote += b.frames;
  }

  process(_inputs: Float32Array[][], outputs: Float32Array[][]): boolean {
    const left = outputs[0]?.[0];
    const right = outputs[0]?.[1] ?? left;
    if (!left || !right) return true;
    const ready = Math.min(this.wrote - this.read, left.length);
    for (let i = 0; i < ready; i++) {
      const at = (this.read + i) % ring;
      left[i] = this.left[at] as number;
      right[i] = this.right[at] as number;
    }
    // Count running dry once, and only after sound has begun.
    if (ready < left.length) {
      if (!this.starved && this.read > 0) this.dry++;
      this.starved = true;
    } else {
      this.starved = false;
    }
    this.read += ready;
    this.least = Math.min(this.least, this.wrote - this.read);
    while (this.marks[0] && this.marks[0].at < this.read) {
      this.now = this.marks.shift()?.block ?? null;
      this.peakLeft = Math.max(this.peakLeft, this.now?.peakLeft ?? 0);
      this.peakRight = Math.max(this.peakRight, this.now?.peakRight ?? 0);
    }
    this.sinceReport += left.length;
    // A new version of the document is reported at once.
    const isNew = this.now !== null && this.now.version !== this.reported;
    if (isNew || this.sinceReport >= 512) this.report();
    else if (this.sinceReport % 256 === 0) this.tell();
    return true;
  }

  private tell() {
    this.worker?.postMessage({ played: this.read, dry: this.dry, least: this.least });
    this.least = ring;
  }

  private report() {
    this.sinceReport = 0;
    this.tell();
    const report: Report = {
      played: this.read,
      dry: this.dry,
      filled: this.wrote - this.read,
      version: this.now?.version ?? 0,
      position: this.now?.position ?? 0,
      peakLeft: this.peakLeft,
      peakRight: this.peakRight,
      loudness: this.now?.loudness ?? -100,
      playing: this.now?.playing ?? false,
      studying: this.now?.studying ?? false,
      piece: this.now?.piece ?? false,
      held: this.now?.held ?? false,
    };
    this.peakLeft = 0;
    this.peakRight = 0;
    this.reported = report.version;
    this.port.postMessage(report);
  }
}

registerProcessor("player", Player);
