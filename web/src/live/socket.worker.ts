// Holds the WebSocket away from the page's thread, so that a busy page does
// not starve the sound. Blocks go straight to the worklet's port; the count of
// frames it has played goes back to the server.
import { readBlocks } from "./wire";

let socket: WebSocket | null = null;
let player: MessagePort | null = null;
let url = "";
let waiting: string[] = [];
let closed = false;

function connect() {
  socket = new WebSocket(url);
  socket.binaryType = "arraybuffer";
  socket.onopen = () => {
    player?.postMessage({ type: "reset" });
    for (const m of waiting) socket?.send(m);
    waiting = [];
    postMessage({ type: "open" });
  };
  socket.onmessage = (e: MessageEvent<ArrayBuffer | string>) => {
    if (typeof e.data === "string") {
      postMessage(JSON.parse(e.data)); // what was asked for could not be done
      return;
    }
    const blocks = readBlocks(e.data);
    if (blocks.length > 0) player?.postMessage({ type: "blocks", blocks }, [e.data]);
  };
  socket.onclose = () => {
    socket = null;
    if (closed) return;
    postMessage({ type: "lost" });
    setTimeout(connect, 700);
  };
}

function send(message: object) {
  const text = JSON.stringify(message);
  if (socket?.readyState === WebSocket.OPEN) socket.send(text);
  else if ((message as { type: string }).type !== "played") waiting.push(text);
}

addEventListener("message", (e: MessageEvent) => {
  const m = e.data;
  if (m.type === "connect") {
    url = m.url;
    player = e.ports[0] ?? null;
    if (player)
      player.onmessage = ({ data: p }) =>
        send({ type: "played", frames: p.played, dry: p.dry, late: p.late });
    connect();
  } else if (m.type === "close") {
    closed = true;
    socket?.close();
    close();
  } else {
    send(m.command);
  }
});
