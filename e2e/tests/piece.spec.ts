// A piece as it is heard: from any bar, on to the next section on the bar, and a run that
// becomes one.
import { alone, documentOf, expect, openView, saved, test } from "./base.js";
import { listen, quiet, sounding, tap } from "./tap.js";

// The tap behind the worklet is no script of the page.
test.use({ bypassCSP: true });

const name = "Warm-up laps";

test("a piece plays from its sections, leaps on the bar, is silent where all are out, and ends", alone, async ({ page, server }) => {
  await openView(page, server, "arrange", name);
  const sections = page.getByRole("listbox", { name: "Sections" }).getByRole("option");
  await sections.filter({ hasText: "Full floor" }).click();
  await page.keyboard.press("Enter");
  await tap(page);
  await sounding(page);
  await expect(page.getByTestId("position")).toHaveText(/^2[789]\./);
  await page.keyboard.press("j");
  await expect(page.getByTestId("position")).toHaveText(/^4[34]\./);
  // Every row is out of the last lap: what plays is heard no more, and what rings dies away.
  await page.evaluate(async () => {
    const id = location.pathname.split("/")[2];
    const s = await (await fetch(`/api/projects/${id}`)).json();
    const edits = [{ op: "piece.paint", voices: s.document.kit.voices.map((v: { id: string }) => v.id), from: 42 * 3840, to: 48 * 3840, plays: false }];
    await fetch(`/api/projects/${id}/edits`, { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify({ base: s.version, edits, coalesce: "" }) });
  });
  await quiet(page);
  await page.keyboard.press("Space");
  // A range goes round.
  await sections.filter({ hasText: "Doors" }).click();
  await page.keyboard.press("u");
  await page.keyboard.press("Enter");
  await sounding(page);
  await expect(page.getByLabel("Loop end")).toHaveValue("8");
  // A change is heard where it is made: the tape runs faster.
  await page.keyboard.press("Space");
  await quiet(page);
  expect((await listen(page, 200)).peak).toBeLessThan(1e-3);
});

test("a run through the variations becomes sections", alone, async ({ page, server }) => {
  await openView(page, server, "groove", name);
  await page.getByRole("button", { name: /^Variations/ }).click();
  await page.evaluate(async () => {
    const id = location.pathname.split("/")[2];
    const s = await (await fetch(`/api/projects/${id}`)).json();
    await fetch(`/api/projects/${id}/edits`, {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify({ base: s.version, edits: [{ op: "variation.add", name: "half" }, { op: "groove.bars", bars: 1 }, { op: "variation.use", variation: "a" }, { op: "number.set", at: "tempo/bpm", value: 240 }], coalesce: "" }),
    });
  });
  await openView(page, server, "arrange", name);
  await page.getByRole("complementary").getByRole("button", { name: "Whole", exact: true }).click();
  await page.getByRole("button", { name: "Begin a run" }).click();
  const status = page.getByRole("complementary").getByRole("status");
  await expect(status).toHaveText(/^A [2-9]/);
  await page.keyboard.press("w");
  await expect(status).toHaveText(/^A \d+, B [2-9]/);
  await page.keyboard.press("q");
  await expect(status).toHaveText(/^A \d+, B \d+, A [1-9]/);
  await page.getByRole("button", { name: "Stop and write it down" }).click();
  await saved(page);
  await expect.poll(async () => (await documentOf(server, name)).arrangement.sections.map((s: { variation: string }) => s.variation)).toEqual(["a", "b", "a"]);
  const doc = await documentOf(server, name);
  expect(doc.arrangement.orders[0].name).toBe("Before the run");
  expect(doc.arrangement.sections[0].bars).toBeGreaterThan(1);
});
