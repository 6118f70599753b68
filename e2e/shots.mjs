// Retakes docs/screenshots from the demo: node shots.mjs [folder].
import { execFileSync, spawn } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { chromium } from "@playwright/test";

const out = process.argv[2] ?? "../docs/screenshots";
const port = 7931;
const data = mkdtempSync(join(tmpdir(), "jubrak-shots-"));
const server = spawn("../bin/jubrak", ["demo", "--addr", `127.0.0.1:${port}`, "--data", data], { stdio: ["ignore", "pipe", "inherit"] });
await new Promise((done) => server.stdout.once("data", done));
/** What opens from the reference: drums, cuts, the library, the pads, and by night the spectrogram. */
async function parts(page, warm) {
  const shot = async (name) => {
    await page.waitForTimeout(900);
    await page.screenshot({ path: join(out, `${name}.png`) });
  };
  await page.goto(`http://127.0.0.1:${port}/p/${warm}/reference`);
  await page.waitForLoadState("networkidle");
  await page.getByRole("group", { name: "What of it" }).getByRole("button", { name: "Drums" }).click();
  await page.getByRole("heading", { name: "Drums, alone" }).waitFor({ timeout: 60_000 });
  await shot("drums");
  await page.getByLabel("Fit a voice to Kick").selectOption({ label: "fit Kick to it" });
  const panel = page.getByRole("region", { name: "Fit", exact: true });
  await panel.getByRole("button", { name: "Fit", exact: true }).click();
  await panel.getByRole("table", { name: "Measures" }).waitFor({ timeout: 60_000 });
  await shot("fit");
  await panel.getByRole("button", { name: "Back to what was there" }).click();
  await panel.getByRole("button", { name: "Done" }).click();
  await page.goto(`http://127.0.0.1:${port}/p/${warm}/reference`);
  await page.getByRole("group", { name: "What of it" }).getByRole("button", { name: "Drums" }).click();
  await page.getByRole("group", { name: "What of it" }).getByRole("button", { name: "Hits" }).click();
  await page.getByRole("group", { name: "Plot" }).getByRole("button", { name: "Cuts" }).click();
  await page.getByLabel(/Layer the Snare at/).first().selectOption({ label: "Snare" });
  await page.getByText("has one more layer").waitFor();
  await page.getByRole("button", { name: "Dismiss" }).click();
  await page.getByRole("button", { name: "Library" }).click();
  await shot("library");
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: "Tap in" }).click();
  await page.getByLabel("Played with").selectOption({ label: "simulated: Lazy laps, late hats" });
  await page.getByRole("button", { name: "Record" }).click();
  await page.getByRole("button", { name: "Use as reference" }).waitFor({ timeout: 60_000 });
  await shot("tap-in");
  await page.goto(`http://127.0.0.1:${port}/p/${warm}/sounds`);
  await page.getByRole("tab", { name: "Snare" }).click();
  await page.waitForTimeout(900);
  await shot("layers");
  await page.getByRole("button", { name: "Undo" }).click();
  await coming(page, warm);
}

/** The library of sounds, and variations of one; the kit of Night skate. */
async function sounds(page, night) {
  const shot = async (name) => {
    await page.waitForTimeout(900);
    await page.screenshot({ path: join(out, `${name}.png`) });
  };
  await page.goto(`http://127.0.0.1:${port}/p/${night}/sounds`);
  await page.getByRole("img", { name: "Wave over time" }).waitFor();
  await page.getByRole("button", { name: "Find", exact: true }).click();
  await page.getByRole("listbox").getByText(/dB/).first().waitFor();
  await shot("find");
  await page.getByRole("button", { name: "Done" }).click();
}

/** Notes on a ladder with a roll and variations, and grooves to take. */
async function grooves(page, project) {
  await page.goto(`http://127.0.0.1:${port}/p/${project}/groove`);
  await page.waitForLoadState("networkidle");
  await page.getByRole("button", { name: "Row", exact: true }).click();
  await page.locator('[data-lane="808"]').focus();
  await page.getByRole("button", { name: "Notes", exact: true }).click();
  await page.locator('[data-lane="808"]').focus();
  await page.keyboard.press("a");
  await page.getByRole("button", { name: /^Hits/ }).click();
  await page.getByRole("button", { name: "Between voices" }).click();
  await page.waitForTimeout(900);
  await page.screenshot({ path: join(out, "notes.png") });
  await page.getByRole("button", { name: "Close the notes" }).click();
  await page.getByRole("button", { name: "Grooves", exact: true }).click();
  await page.getByLabel("Search grooves").fill("swung");
  const list = page.getByRole("listbox", { name: "Grooves" });
  await list.getByRole("option").first().waitFor();
  await list.focus();
  await page.keyboard.press("ArrowDown");
  await page.waitForTimeout(900);
  await list.scrollIntoViewIfNeeded();
  await page.screenshot({ path: join(out, "grooves.png") });
  await page.keyboard.press("Escape");
}

/** The mix of Speed round with a step of it large. */
async function mix(page, project) {
  await page.goto(`http://127.0.0.1:${port}/p/${project}/mix`);
  await page.waitForLoadState("networkidle");
  await page.locator('[data-row="snare"] [data-effect=compressor1]').click();
  await page.waitForTimeout(1200);
  await page.screenshot({ path: join(out, "mix.png") });
}

/** The demo's loop rebuilt, step by step, and what is whose of a project that was. */
async function rebuilt(page, warm) {
  await page.goto(`http://127.0.0.1:${port}/p/${warm}/compare`);
  await page.getByRole("button", { name: "Rebuild…" }).click();
  await page.getByRole("button", { name: "Rebuild it" }).click();
  await page.getByRole("region", { name: "Rebuilding" }).getByText(/values inside/).first().waitFor({ timeout: 180_000 });
  await page.waitForTimeout(2500);
  await page.screenshot({ path: join(out, "rebuild.png") });
}

/** A long file while it is listened to: the rink's loop again and again. */
async function coming(page, warm) {
  const long = join(data, "All-night session.flac");
  const loop = "../demo/rink/warm-up-laps.flac";
  execFileSync("ffmpeg", ["-v", "error", "-stream_loop", "20", "-i", loop, "-t", "400", long]);
  await page.goto(`http://127.0.0.1:${port}/p/${warm}/reference`);
  await page.waitForLoadState("networkidle");
  await page.getByLabel("Reference file").setInputFiles(long);
  await page.getByRole("img", { name: /hits so far/ }).first().waitFor({ timeout: 120_000 });
  await page.screenshot({ path: join(out, "coming.png") });
  await page.getByRole("button", { name: "Cancel" }).click();
}

const browser = await chromium.launch({ executablePath: "/usr/bin/chromium", args: ["--no-sandbox", "--disable-background-networking", "--disable-component-update", "--autoplay-policy=no-user-gesture-required"] });
try {
  for (const theme of ["day", "night"]) {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, colorScheme: theme === "day" ? "light" : "dark" });
    const { projects } = await (await page.request.get(`http://127.0.0.1:${port}/api/projects`)).json();
    const warm = projects.find((p) => p.name === "Warm-up laps").id;
    const views = theme === "day" ? ["home", "reference", "sounds", "groove", "arrange", "compare", "export"] : ["groove"];
    for (const view of views) {
      await page.goto(`http://127.0.0.1:${port}/${view === "home" ? "" : `p/${warm}/${view}`}`);
      await page.getByRole("heading").first().waitFor();
      await page.waitForTimeout(1500);
      if (view === "groove") {
        await page.getByRole("button", { name: "Play", exact: true }).click();
        await page.waitForTimeout(2600);
      }
      if (view === "arrange") {
        await page.getByRole("option", { name: /^Full floor/ }).click();
        await page.getByTestId("room").locator("rect").first().waitFor();
      }
      await page.waitForTimeout(700);
      const notice = page.getByRole("button", { name: "Dismiss" }); // of the file that was cancelled
      if (await notice.isVisible()) await notice.click();
      await page.screenshot({ path: join(out, theme === "day" ? `${view}.png` : `${view}-night.png`) });
    }
    if (theme === "day") {
      await grooves(page, projects.find((p) => p.name === "Speed round").id);
      await mix(page, projects.find((p) => p.name === "Speed round").id);
      await sounds(page, projects.find((p) => p.name === "Night skate").id);
      await parts(page, warm);
      await rebuilt(page, warm);
    }
    await page.close();
  }
} finally {
  await browser.close();
  server.kill();
  rmSync(data, { recursive: true, force: true });
}
