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

export class Server {
  url = "";
  private port = 0;
  private child: ChildProcess | null = null;

  constructor(readonly data: string) {}

  /** A server on a copy of the demo's folder (demo.ts). */
  static ofDemo(): Server {
    const demo = process.env.JUBRAK_DEMO;
    if (!demo) throw new Error("the demo's folder is not made");
    const data = mkdtempSync(join(tmpdir(), "jubrak-e2e-"));
    cpSync(demo, data, { recursive: true });
    return new Server(data);
  }

  async start() {
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
