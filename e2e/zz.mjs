import { spawn } from "node:child_process";
import { mkdtempSync } from "node:fs";
import { chromium } from "@playwright/test";
const port = 7955;
const data = mkdtempSync("/tmp/zz-");
const server = spawn("../bin/jubrak", ["demo", "--addr", `127.0.0.1:${port}`, "--data", data], { stdio: ["ignore", "pipe", "inherit"] });
await new Promise((d) => server.stdout.once("data", d));
const browser = await chromium.launch({ executablePath: "/usr/bin/chromium", args: ["--no-sandbox", "--disable-background-networking", "--autoplay-policy=no-user-gesture-required"] });
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
page.on("console", (m) => m.type() === "error" && console.log("console:", m.text()));
const { projects } = await (await page.request.get(`http://127.0.0.1:${port}/api/projects`)).json();
const warm = projects.find((p) => p.name === "Warm-up laps").id;
const go = async (v) => { await page.goto(`http://127.0.0.1:${port}/p/${warm}/${v}`); await page.waitForLoadState("networkidle"); await page.waitForTimeout(800); };
const shot = (n) => page.screenshot({ path: `/tmp/zz-${n}.png` });
try { await (await import(process.argv[2])).default({ page, go, shot, url: `http://127.0.0.1:${port}`, warm }); } finally { await browser.close(); server.kill(); }
