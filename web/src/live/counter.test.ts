import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { Counter } from "./counter";

const sent: string[] = [];
const posted: { body: string; done: () => void }[] = [];
const socket = { bufferedAmount: 0, readyState: 1, send: (m: string) => void sent.push(m) };
const counted = (played: number, late = 0) => ({ played, dry: 0, late });

beforeEach(() => {
  sent.length = 0;
  posted.length = 0;
  socket.bufferedAmount = 0;
  vi.stubGlobal("WebSocket", { OPEN: 1 });
  vi.stubGlobal(
    "fetch",
    (_: string, { body }: { body: string }) =>
      new Promise<void>((done) => posted.push({ body, done: () => done() })),
  );
});

afterEach(() => vi.unstubAllGlobals());

test("counts go over the socket, however much waits in it, while blocks come over it, too", () => {
  const c = new Counter(socket, "/live/k");
  c.count(counted(256), 0);
  socket.bufferedAmount = 60;
  c.count(counted(512), 5000);
  expect(sent.map((m) => JSON.parse(m).frames)).toEqual([256, 512]);
  expect(posted).toEqual([]);
});

test("beside a stream counts go in requests while the socket waits: one at a time, the last of those in between", async () => {
  const c = new Counter(socket, "/live/k");
  c.streams();
  c.count(counted(256), 0);
  socket.bufferedAmount = 60;
  c.count(counted(512), 60);
  expect(posted, "it is given a moment").toEqual([]);
  c.count(counted(768), 100);
  c.count(counted(1024, 5), 105);
  c.count(counted(1280, 7), 110);
  expect(posted).toHaveLength(1);
  posted[0]?.done();
  await vi.waitFor(() => expect(posted).toHaveLength(2));
  expect(JSON.parse(posted[1]?.body ?? "")).toEqual({ type: "played", frames: 1280, dry: 0, late: 12 });
  posted[1]?.done();
  socket.bufferedAmount = 0;
  c.count(counted(1536), 115);
  expect(JSON.parse(sent.at(-1) ?? "").frames, "over the socket again").toBe(1536);
  expect(posted).toHaveLength(2);
});

test("nothing is counted to a socket that is not open", () => {
  socket.readyState = 3;
  const c = new Counter(socket, "/live/k");
  c.count(counted(256), 0);
  expect(sent).toEqual([]);
  socket.readyState = 1;
});
