// Holds the way to the server away from the page's thread, so that a busy page does not
// starve the sound: blocks come in an answer that does not end, messages go in requests of
// their own. Browsers open six connections to a server, so only some windows have a stream;
// the others have a WebSocket, which in some browsers waits for the page. Blocks go straight
// to the worklet's port; the count of frames it has played goes back to the server.
import { type Block, readBlocks, StreamReader } from "./wire";

/** How many windows of a browser have a stream. */
const mostStreams = 3;
/** How long a stream may take to open, ms. */
const patience = 1500;
/** How often the count of played frames goes out beside a stream, ms. */
const often = 40;

interface Link {
  send: (message: object) => void;
  close: () => void;
}

let link: Link | null = null;
let player: MessagePort | null = null;
let url = "";
let waiting: object[] = [];
let closed = false;

async function connect() {
  if (!(await stream()) && !closed) socket();
}

function opened(by: Link) {
  link = by;
  player?.postMessage({ type: "reset" });
  for (const m of waiting) by.send(m);
  waiting = [];
  postMessage({ type: "open" });
}

function lost(by: Link) {
  if (link !== by) return;
  link = null;
  if (closed) return;
  postMessage({ type: "lost" });
  setTimeout(connect, 700);
}

const play = (blocks: Block[], buffers: ArrayBuffer[]) =>
  player?.postMessage({ type: "blocks", blocks }, buffers);

/** Opens a stream; false where there is none to be had. */
async function stream(): Promise<boolean> {
  const release = await free();
  if (!release) return false;
  const abort = new AbortController();
  const timer = setTimeout(() => abort.abort(), patience);
  try {
    const reply = await fetch(`${url}/stream`, { signal: abort.signal });
    clearTimeout(timer);
    if (!reply.ok || !reply.body) throw new Error("no stream");
    void follow(reply.body.getReader(), abort).finally(release);
    return true;
  } catch {
    clearTimeout(timer);
    abort.abort();
    release();
    return false;
  }
}

async function follow(body: ReadableStreamDefaultReader<Uint8Array>, abort: AbortController) {
  const reader = new StreamReader();
  let by: Link | null = null;
  try {
    for (;;) {
      const { done, value } = await body.read();
      if (done) break;
      const { blocks, texts } = reader.take(value);
      if (blocks.length > 0)
        play(
          blocks,
          blocks.map((b) => b.left.buffer as ArrayBuffer),
        );
      for (const text of texts) {
        const m = JSON.parse(text) as { type: string; id: string };
        if (m.type !== "session") postMessage(m);
        else {
          by = posting(`${url}/${m.id}`, abort);
          opened(by);
        }
      }
    }
  } catch {
    // The connection is gone, as at the end.
  }
  if (by) lost(by);
  else if (!closed) setTimeout(connect, 700);
}

/** Sends messages in requests, one after the other; what comes meanwhile goes together. */
function posting(to: string, abort: AbortController): Link {
  let queue: object[] = [];
  let busy = false;
  let last = 0;
  const pump = async () => {
    if (busy) return;
    busy = true;
    while (queue.length > 0) {
      const messages = queue;
      queue = [];
      const reply = await fetch(to, {
        method: "POST",
        body: JSON.stringify({ messages }),
        signal: abort.signal,
      }).catch(() => null);
      if (!reply?.ok) abort.abort();
    }
    busy = false;
  };
  let count: Played | null = null;
  return {
    send: (message) => {
      if (isPlayed(message)) {
        count = count ? { ...message, late: count.late + message.late } : message;
        if (performance.now() - last < often) return;
      }
      if (count) {
        queue.push(count);
        count = null;
        last = performance.now();
      }
      if (!isPlayed(message)) queue.push(message);
      void pump();
    },
    close: () => abort.abort(),
  };
}

interface Played {
  type: "played";
  frames: number;
  dry: number;
  late: number;
}

const isPlayed = (m: object): m is Played => (m as Played).type === "played";

/** Takes one of the places for streams that all windows share; null where none is free. */
async function free(): Promise<(() => void) | null> {
  if (!navigator.locks) return null;
  for (let i = 0; i < mostStreams; i++) {
    const release = await new Promise<(() => void) | null>((done) => {
      void navigator.locks.request(`jubrak stream ${i}`, { ifAvailable: true }, (lock) =>
        lock ? new Promise<void>((end) => done(end)) : done(null),
      );
    });
    if (release) return release;
  }
  return null;
}

function socket() {
  const s = new WebSocket(url.replace(/^http/, "ws"));
  s.binaryType = "arraybuffer";
  const by: Link = {
    send: (m) => s.readyState === WebSocket.OPEN && s.send(JSON.stringify(m)),
    close: () => s.close(),
  };
  s.onopen = () => opened(by);
  s.onmessage = (e: MessageEvent<ArrayBuffer | string>) => {
    if (typeof e.data === "string") {
      postMessage(JSON.parse(e.data));
      return;
    }
    const blocks = readBlocks(e.data);
    if (blocks.length > 0) play(blocks, [e.data]);
  };
  s.onclose = () => {
    if (link === by) lost(by);
    else if (!closed) setTimeout(connect, 700);
  };
}

addEventListener("message", (e: MessageEvent) => {
  const m = e.data;
  if (m.type === "connect") {
    url = m.url;
    player = e.ports[0] ?? null;
    if (player)
      player.onmessage = ({ data: p }) =>
        link?.send({ type: "played", frames: p.played, dry: p.dry, late: p.late });
    void connect();
  } else if (m.type === "close") {
    closed = true;
    link?.close();
    close();
  } else if (link) link.send(m.command);
  else waiting.push(m.command);
});
