// A soak: wild random edits by keys and mouse while the groove plays, for so many
// minutes (5 by default; the first argument). Prints how often the sound ran dry, what
// went wrong, and whether the screen still shows what the server has.
import { open } from "./open.mjs";

const minutes = Number(process.argv[2] ?? 5);
const at = await open(7934);
const { page } = at;
const errors = [];
page.on("pageerror", (e) => errors.push(String(e)));
// A refusal with a sentence is an answer, not an error.
const refusals = {};
page.on("console", (m) => m.type() === "error" && !/status of 4\d\d/.test(m.text()) && errors.push(m.text()));
page.on("response", async (r) => {
  if (r.status() < 400) return;
  const text = (await r.json().catch(() => null))?.error?.message ?? String(r.status());
  if (r.status() === 422) refusals[text] = (refusals[text] ?? 0) + 1;
  else errors.push(text);
});
const project = await at.project("Warm-up laps");
await page.goto(`${at.url}/p/${project}/groove`);
await page.waitForSelector("[data-lane]");

let seed = 7;
const random = (n) => {
  seed = (seed * 1103515245 + 12345) % 2147483648;
  return Math.floor((seed / 2147483648) * n);
};
const keys = "ArrowLeft ArrowRight Enter Enter ArrowUp ArrowDown Alt+ArrowLeft Alt+ArrowRight g h d r Shift+r o [ ] a l Shift+l q Control+c Control+v Control+d Control+z Control+Shift+z Delete PageUp PageDown Shift+PageUp w Shift+w Control+ArrowRight Control+ArrowLeft e e s j Shift+j u c".split(" ");
await page.locator('[data-lane="kick"]').focus();
await page.keyboard.press("Space");
await page.waitForTimeout(1500);
const before = await page.evaluate(() => ({ ...globalThis.jubrakMonitor.report }));
const end = Date.now() + minutes * 60000;
let done = 0;
let ran = before.dry;
let last = "";
const began = Date.now();
while (Date.now() < end) {
  const lanes = await page.locator("[data-lane]").all();
  if (random(6) === 0) await lanes[random(lanes.length)].focus();
  if (random(12) === 0) {
    const box = await lanes[random(lanes.length)].locator("canvas").boundingBox();
    if (box) {
      await page.mouse.move(box.x + 20 + random(box.width - 40), box.y + 10 + random(40));
      await page.mouse.down();
      await page.mouse.move(box.x + 20 + random(box.width - 40), box.y + 10 + random(40), { steps: 4 });
      await page.mouse.up();
    }
  } else if (random(60) === 0) {
    const more = page.getByRole("button", { name: "Another variation" });
    if (await more.isEnabled()) await more.click();
  } else if (random(40) === 0) {
    const all = await page.getByTitle("Plays from the next bar on").all();
    if (all.length > 0) await all[random(all.length)].click();
  } else {
    last = keys[random(keys.length)];
    await page.keyboard.press(last);
  }
  done++;
  const dry = await page.evaluate(() => globalThis.jubrakMonitor.report.dry);
  if (dry > ran) console.log(`  ran dry at ${((Date.now() - began) / 1000).toFixed(0)} s, after ${last}`);
  ran = dry;
  await page.waitForTimeout(40 + random(80));
}
// Everything answered; then what is shown must be what is kept.
await page.getByText("All changes saved").waitFor({ timeout: 30000 });
await page.waitForTimeout(800);
const after = await page.evaluate(() => ({ ...globalThis.jubrakMonitor.report }));
const kept = (await at.json(`/api/projects/${project}`)).document;
const shown = await page.locator("[data-lane]").evaluateAll((all) =>
  all.map((el) => [el.dataset.lane, Number(/, (\d+) hits/.exec(el.getAttribute("aria-label"))?.[1])]),
);
const wrong = shown.filter(([voice, n]) => (kept.groove.lanes.find((l) => l.voice === voice)?.hits.length ?? 0) !== n);
console.log(
  `${done} acts in ${minutes} minutes, ${((after.played - before.played) / 48000).toFixed(0)} s played, ran dry ${after.dry - before.dry} times, ${errors.length} errors, ${wrong.length} rows differ from what is kept`,
);
for (const [text, n] of Object.entries(refusals)) console.log(`  refused ${n} times: ${text}`);
for (const e of [...new Set(errors)].slice(0, 8)) console.log("  ", e);
await at.close();
process.exit(errors.length + wrong.length > 0 ? 1 : 0);
