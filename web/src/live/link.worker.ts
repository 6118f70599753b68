// Holds the way to the server away from the page's thread, so that a busy page does not
// starve the sound. A WebSocket carries messages, and blocks until a stream beside it does.
// Blocks go straight to the worklet's port; the count of frames it has played goes back.
import { BlockStream, takePlace } from "./blockStream";
import { type Counted, Counter } from "./counter";
import { readBlocks } from "./wire";

let socket: WebSocket | null = null;
let player: MessagePort | null = null;
let url = "";
let waiting: string[] = [];
let closed = false;
let counter: Counter | null = null;

function connect() {
  const key = [...crypto.getRandomValues(new Uint8Array(8))].map((b) => b.toString(36)).join("");
  const s = new WebSocket(`${url.replace(/^http/, "ws")}?key=${key}`);
  const at = `${url}/${key}`;
  let stream: BlockStream | null = null;
  const ended = new AbortController();
  const play = (bytes: ArrayBuffer) => {
    const blocks = readBlocks(bytes);
    if (blocks.length > 0) player?.postMessage({ type: "blocks", blocks }, [bytes]);
  };
  socket = s;
  s.binaryType = "arraybuffer";
  s.onopen = async () => {
    player?.postMessage({ type: "reset" });
    counter = new Counter(s, at);
    for (const m of waiting) s.send(m);
    waiting = [];
    postMessage({ type: "open" });
    const release = await takePlace(navigator.locks, ended.signal);
    if (!release) return;
    ended.signal.addEventListener("abort", release);
    if (!ended.signal.aborted) stream = await BlockStream.open(at, play, () => s.close());
    if (stream && !ended.signal.aborted) s.send(JSON.stringify({ type: "stream" }));
    else {
      stream?.close();
      release();
    }
  };
  s.onmessage = (e: MessageEvent<ArrayBuffer | string>) => {
    if (typeof e.data !== "string") {
      play(e.data);
      return;
    }
    const message = JSON.parse(e.data);
    if (message.type === "streams") {
      stream?.begin();
      counter?.streams();
    }
    postMessage(message);
  };
  s.onclose = () => {
    stream?.close();
    ended.abort();
    socket = null;
    counter = null;
    if (closed) return;
    postMessage({ type: "lost" });
    setTimeout(connect, 700);
  };
}

function command(message: object) {
  const text = JSON.stringify(message);
  if (socket?.readyState === WebSocket.OPEN) socket.send(text);
  else waiting.push(text);
}

addEventListener("message", (e: MessageEvent) => {
  const m = e.data;
  if (m.type === "connect") {
    url = m.url;
    player = e.ports[0] ?? null;
    if (player)
      player.onmessage = ({ data }: MessageEvent<Counted>) => counter?.count(data, performance.now());
    connect();
  } else if (m.type === "close") {
    closed = true;
    socket?.close();
    close();
  } else command(m.command);
});
