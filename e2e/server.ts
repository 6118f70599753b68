// A real server on a folder of its own.
import { type ChildProcess, spawn } from "node:child_process";
import { cpSync, mkdtempSync, rmSync } from "node:fs";
import { createServer } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";

async function freePort(): Promise<number> {
  return new Promise((done) => {
    const s = createServer().listen(0, "127.0.0.1", () => {
      const { port } = s.address() as { port: number };
      s.close(() => done(port));
    });
  });
}

/** A folder with the demo as it is made, once for all servers: listening to its recordings takes a while. */
let made: Promise<string> | null = null;

async function demo(): Promise<string> {
  const data = mkdtempSync(join(tmpdir(), "jubrak-demo-"));
  process.once("exit", () => rmSync(data, { recursive: true, force: true }));
  const child = spawn("../bin/jubrak", ["demo", "--addr", `127.0.0.1:${await freePort()}`, "--data", data], {
    stdio: ["ignore", "pipe", "ignore"],
  });
  await new Promise<void>((done, fail) => {
    child.stdout?.once("data", () => done());
    child.once("exit", (code) => fail(new Error(`the demo was not made: ${code}`)));
  });
  const gone = new Promise((done) => child.once("exit", done));
  child.kill("SIGTERM");
  await gone;
  return data;
}

export class Server {
  readonly data = mkdtempSync(join(tmpdir(), "jubrak-e2e-"));
  url = "";
  private port = 0;
  private seeded = false;
  private child: ChildProcess | null = null;

  async start() {
    if (!this.seeded) {
      made ??= demo();
      cpSync(await made, this.data, { recursive: true });
      this.seeded = true;
    }
    this.port ||= await freePort();
    this.url = `http://127.0.0.1:${this.port}`;
    const child = spawn("../bin/jubrak", ["demo", "--addr", `127.0.0.1:${this.port}`, "--data", this.data], {
      stdio: ["ignore", "pipe", "ignore"],
    });
    this.child = child;
    await new Promise<void>((done, fail) => {
      child.stdout?.once("data", () => done());
      child.once("exit", (code) => fail(new Error(`the server ended with ${code}`)));
    });
  }

  /** Ends it at once, as a crash would, or lets it close. */
  async stop(signal: NodeJS.Signals = "SIGTERM") {
    const child = this.child;
    this.child = null;
    if (!child || child.exitCode !== null) return;
    child.removeAllListeners("exit");
    const ended = new Promise((done) => child.once("exit", done));
    child.kill(signal);
    await ended;
  }

  async remove() {
    await this.stop();
    rmSync(this.data, { recursive: true, force: true });
  }

  async project(name: string): Promise<string> {
    const reply = await fetch(`${this.url}/api/projects`);
    const { projects } = (await reply.json()) as { projects: { id: string; name: string }[] };
    const found = projects.find((p) => p.name === name);
    if (!found) throw new Error(`there is no project ${name}`);
    return found.id;
  }
}
