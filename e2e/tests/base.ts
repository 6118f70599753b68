// What all tests share: a server with the demo, and the open project.
import { test as plain, expect, type Page } from "@playwright/test";
import { Server } from "../server.js";

export { expect };

export const test = plain.extend<{ server: Server }>({
  server: async ({}, use) => {
    const server = Server.ofDemo();
    await server.start();
    await use(server);
    await server.remove();
  },
});

/** Of a walk that reads samples behind the worklet or plays in time: it has the machine to itself. */
export const alone = { tag: "@alone" };

export async function openView(page: Page, server: Server, view: string, project = "Warm-up laps") {
  await page.goto(`${server.url}/p/${await server.project(project)}/${view}`);
  await expect(page.getByRole("heading", { level: 1 }).first()).toBeVisible();
}

/** The document as the server has it. */
export async function documentOf(server: Server, project: string) {
  const reply = await fetch(`${server.url}/api/projects/${await server.project(project)}`);
  return ((await reply.json()) as any).document;
}

export const saved = (page: Page) => expect(page.getByText("All changes saved")).toBeVisible();

/**
 * In the page: holds its thread twice for twice the lead; returns the part of the output's time
 * that was filled with sound, which is 0.55 where blocks wait for the page.
 */
export async function playsWhileHeld(): Promise<number> {
  const m = (window as any).jubrakMonitor;
  const at = () => ({ played: m.report.played as number, output: m.context.currentTime * 48000 });
  const before = at();
  for (let i = 0; i < 2; i++) {
    for (const until = performance.now() + 3000; performance.now() < until; );
    await new Promise((done) => setTimeout(done, 500));
  }
  const after = at();
  return (after.played - before.played) / (after.output - before.output);
}
