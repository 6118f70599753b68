// Makes the demo's folder once for all tests, as it is after it has been used for a while:
// its recordings are heard and their drums are found, which takes the server seconds each.
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { Server } from "./server.js";

export default async function () {
  const data = mkdtempSync(join(tmpdir(), "jubrak-demo-"));
  const server = new Server(data);
  await server.start();
  const { projects } = (await (await fetch(`${server.url}/api/projects`)).json()) as { projects: { id: string }[] };
  await Promise.all(projects.map((p) => fetch(`${server.url}/api/projects/${p.id}/compare`)));
  await server.stop();
  process.env.JUBRAK_DEMO = data;
  return () => rmSync(data, { recursive: true, force: true });
}
