// Blocks in an answer that does not end, beside the socket: in some browsers a worker's socket
// waits for the page's thread, what a worker fetches does not.
import { blockLength } from "./wire";

/**
 * How many windows of a browser have a stream. A browser opens six connections to a server;
 * the others are for what the windows ask.
 */
const mostStreams = 3;

/**
 * Waits for one of the places for streams that all windows share, and returns what gives it
 * back; null where there are none, on a page that is not secure. The signal ends the wait.
 */
export function takePlace(locks: LockManager | undefined, signal: AbortSignal): Promise<(() => void) | null> {
  if (!locks) return Promise.resolve(null);
  const others = new AbortController();
  signal.addEventListener("abort", () => others.abort());
  return new Promise((done) => {
    for (let i = 0; i < mostStreams; i++)
      locks
        .request(`jubrak stream ${i}`, { signal: others.signal }, () => {
          if (others.signal.aborted) return; // it has another place, or waits no more
          others.abort();
          return new Promise<void>((end) => done(end));
        })
        .catch(() => {}); // it waits no more
  });
}

/** Gathers what comes in pieces into whole blocks. */
export class Whole {
  private rest = new Uint8Array(0);

  /** Takes a piece; returns the whole blocks that it completes, or null. */
  take(piece: Uint8Array): ArrayBuffer | null {
    const all = new Uint8Array(this.rest.length + piece.length);
    all.set(this.rest);
    all.set(piece, this.rest.length);
    const view = new DataView(all.buffer);
    let from = 0;
    let end = 0;
    while (all.length - end >= 4) {
      const frames = view.getUint32(end, true);
      const length = blockLength(frames);
      if (all.length - end < length) break;
      end += length;
      if (frames === 0) from = end; // what a stream begins with
    }
    this.rest = all.slice(end);
    return end > from ? all.buffer.slice(from, end) : null;
  }
}

export class BlockStream {
  private held: ArrayBuffer[] | null = [];

  private constructor(
    private readonly abort: AbortController,
    private readonly play: (blocks: ArrayBuffer) => void,
  ) {}

  /**
   * Opens a stream; null where none opens. That may take a while, as all that the window asks
   * comes over the same few connections. What comes is held until begin; lost is called when
   * it ends, unless by close.
   */
  static async open(
    url: string,
    play: (blocks: ArrayBuffer) => void,
    lost: () => void,
  ): Promise<BlockStream | null> {
    const abort = new AbortController();
    try {
      const reply = await fetch(url, { signal: abort.signal });
      if (!reply.ok || !reply.body) return null;
      const stream = new BlockStream(abort, play);
      void stream.follow(reply.body.getReader()).then(() => abort.signal.aborted || lost());
      return stream;
    } catch {
      return null;
    }
  }

  private async follow(body: ReadableStreamDefaultReader<Uint8Array>) {
    const whole = new Whole();
    for (;;) {
      const { done, value } = await body.read().catch(() => ({ done: true, value: undefined }));
      if (done || !value) return;
      const blocks = whole.take(value);
      if (!blocks) continue;
      if (this.held) this.held.push(blocks);
      else this.play(blocks);
    }
  }

  /** Lets through what has come and comes: all that went over the socket is there. */
  begin() {
    for (const blocks of this.held ?? []) this.play(blocks);
    this.held = null;
  }

  close() {
    this.abort.abort();
  }
}
