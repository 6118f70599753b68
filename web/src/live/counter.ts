// What has been played, on its way to the server.

/** What the worklet counts: frames played, how often it ran dry, frames that came too late since. */
export interface Counted {
  played: number;
  dry: number;
  late: number;
}

/** From how long on the socket is taken to wait for the page, ms. */
const stuckAfter = 80;

/**
 * Sends counts over the socket. In some browsers a worker's socket waits for the page's
 * thread: while it does, and blocks come beside it, counts go in requests of their own.
 */
export class Counter {
  private streaming = false;
  /** When nothing waited in the socket last. */
  private free = Number.NEGATIVE_INFINITY;
  private next: Counted | null = null;
  private posting = false;

  constructor(
    private readonly socket: Pick<WebSocket, "bufferedAmount" | "readyState" | "send">,
    private readonly url: string,
  ) {}

  /** Blocks come beside the socket from now on. */
  streams() {
    this.streaming = true;
  }

  count(c: Counted, now: number) {
    if (this.socket.readyState !== WebSocket.OPEN) return;
    if (this.socket.bufferedAmount === 0) this.free = now;
    if (this.streaming && now - this.free > stuckAfter) void this.post(c);
    else this.socket.send(message(c));
  }

  /** Sends one request at a time; of counts that come meanwhile the last one. */
  private async post(c: Counted) {
    this.next = { ...c, late: c.late + (this.next?.late ?? 0) };
    if (this.posting) return;
    this.posting = true;
    while (this.next) {
      const body = message(this.next);
      this.next = null;
      await fetch(this.url, { method: "POST", body }).catch(() => {}); // a lost one ends the socket, too
    }
    this.posting = false;
  }
}

const message = (c: Counted) =>
  JSON.stringify({ type: "played", frames: c.played, dry: c.dry, late: c.late });
