// The kit itself: voices and layers that come, change and go, and the history of
// it all.
import { documentOf, expect, openView, saved, test } from "./base.js";

const voicesOf = async (server: Parameters<typeof documentOf>[0]) =>
  (await documentOf(server, "Warm-up laps")).kit.voices as { id: string; name: string; family: string; layers: { name: string; recipe: object | null }[] }[];

test("voices are added, named, filed, moved, copied and removed, and lanes follow", async ({ page, server }) => {
  await openView(page, server, "sounds");
  await page.getByRole("button", { name: "Add a voice" }).click();
  await page.getByRole("menuitem", { name: "Clap" }).click();
  await expect(page.getByRole("tab", { name: "Clap" })).toHaveAttribute("aria-selected", "true");
  const name = page.getByLabel("Name of the voice");
  await name.fill("Slap");
  await name.press("Enter");
  await page.getByLabel("Family of the voice").selectOption("rim");
  await saved(page);
  await page.getByRole("button", { name: "This voice" }).click();
  await page.getByRole("menuitem", { name: /^Move up/ }).click();
  await saved(page);
  expect((await voicesOf(server)).map((v) => v.id)).toEqual(["kick", "snare", "hat", "open", "clap", "808"]);
  expect((await voicesOf(server))[4]).toMatchObject({ name: "Slap", family: "rim" });
  await page.keyboard.press("Escape");
  await page.evaluate(() => (document.activeElement as HTMLElement).blur());
  await page.keyboard.press("3");
  await expect(page.locator("[data-lane]")).toHaveCount(6);
  await expect(page.locator('[data-lane="clap"]')).toHaveAttribute("aria-label", /^Slap lane/);
  await page.keyboard.press("2");
  await page.getByRole("tab", { name: "Kick" }).click();
  await page.getByRole("button", { name: "This voice" }).click();
  await page.getByRole("menuitem", { name: /^Duplicate/ }).click();
  await expect(page.getByRole("tab", { name: "Kick 2" })).toBeVisible();
  await saved(page);
  const doc = await documentOf(server, "Warm-up laps");
  expect(doc.groove.lanes[1].voice).toBe("kick2");
  expect(doc.groove.lanes[1].hits.length).toBe(doc.groove.lanes[0].hits.length);
  await page.getByRole("tab", { name: "Slap" }).click();
  await page.getByRole("button", { name: "This voice" }).click();
  await page.getByRole("menuitem", { name: /^Remove/ }).click();
  await expect(page.getByRole("tab", { name: "Slap" })).toHaveCount(0);
});

test("the history names every step and is jumped in", async ({ page, server }) => {
  await openView(page, server, "sounds");
  const set = async (value: string) => {
    const field = page.getByRole("spinbutton", { name: "End pitch" });
    await field.fill(value);
    await field.press("Enter");
    await saved(page);
  };
  await set("50");
  await set("60");
  await set("70");
  await page.getByRole("button", { name: "History" }).click();
  const list = page.getByRole("dialog", { name: "History" });
  await expect(list.getByRole("listitem")).toHaveText([/end pitch 60 → 70 Hz/, /end pitch 50 → 60 Hz/, /end pitch 46.2 → 50 Hz/, /The beginning/]);
  await list.getByRole("button", { name: /46.2 → 50/ }).click();
  await expect(page.getByRole("spinbutton", { name: "End pitch" })).toHaveValue("50.0");
  await expect(list.locator("[aria-current=step]")).toContainText("46.2 → 50");
  await list.getByRole("button", { name: /60 → 70/ }).click();
  await expect(page.getByRole("spinbutton", { name: "End pitch" })).toHaveValue("70.0");
  await page.keyboard.press("Escape");
  await expect(list).toHaveCount(0);
});

test("a kit without voices says what to do, and comes back", async ({ page, server }) => {
  await openView(page, server, "sounds");
  for (const name of ["Kick", "Snare", "Hat", "Open hat", "808"]) {
    await expect(page.getByLabel("Name of the voice")).toHaveValue(name);
    await page.getByRole("button", { name: "This voice" }).click();
    await page.getByRole("menuitem", { name: /^Remove/ }).click();
    await saved(page);
  }
  await expect(page.getByText("This kit has no voices yet. Add one.")).toBeVisible();
  await page.keyboard.press("3");
  await expect(page.getByText(/This kit has no voices\. Add one in Sounds/)).toBeVisible();
  await page.keyboard.press("Control+z");
  await expect(page.locator("[data-lane]")).toHaveCount(1);
});
