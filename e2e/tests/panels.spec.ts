// Every panel and menu of every view is opened and closed: what was there is there again,
// and while it is open the page passes axe.
import type { Page } from "@playwright/test";
import { passesAxe } from "./axe.js";
import { expect, openView, test } from "./base.js";

/** What is on show, by name: sections, charts, pictures and headings that have a size. */
const shown = (page: Page) =>
  page.evaluate(() => {
    const out: string[] = [];
    for (const el of document.querySelectorAll<HTMLElement>(
      "dialog[open] [aria-label], dialog[open] h2, main [aria-label], aside [aria-label], main canvas, main h1, main h2, main h3, aside h2, aside h3",
    )) {
      const box = el.getBoundingClientRect();
      if (box.width > 0 && box.height > 0)
        out.push(`${el.tagName} ${el.getAttribute("aria-label") ?? el.textContent?.replace(/[\d.,−+]+/g, "#")}`);
    }
    return out.sort();
  });

/** What was heard before, during and after; axe looks at it unless it has seen it. */
async function openAndClose(page: Page, what: string, open: () => Promise<void>, close: () => Promise<void>, seen: boolean) {
  const before = await shown(page);
  await open();
  await expect.poll(async () => (await shown(page)).join("\n"), { message: `${what} opens` }).not.toBe(before.join("\n"));
  if (!seen) await passesAxe(page, what);
  await close();
  await expect.poll(() => shown(page), { message: `after ${what}` }).toEqual(before);
}

/** A button with a state, or a tab of a choice, beside which another one is the one at first. */
const press = (page: Page, name: string) => () =>
  page.locator("dialog[open], main, aside").getByRole("button", { name, exact: true }).first().click();

/** All has come when it is the same for a second: charts wait for answers. */
async function settled(page: Page) {
  await page.waitForLoadState("networkidle");
  let last = "";
  let alike = 0;
  await expect
    .poll(async () => {
      const now = (await shown(page)).join("\n");
      alike = now === last && !now.includes("not measured yet") ? alike + 1 : 0;
      last = now;
      return alike;
    }, { intervals: [400] })
    .toBeGreaterThanOrEqual(3);
}

const panels: Record<string, { project?: string; open: [string, string][] }> = {
  reference: {
    open: [["Velocity", "Feel"], ["Tempo", "Feel"], ["Spectrum", "Feel"], ["Cuts", "Feel"], ["Drums", "Hits"], ["Playback options", "Playback options"], ["Library", "Close"], ["Tap in", "Close"]],
  },
  sounds: {
    open: [["Find", "Done"], ["Fit", "Done"], ["Make variants", "Done"], ["Kits", "Done"], ["Find", "Find"], ["Make variants", "Make variants"], ["Kits", "Kits"], ["Layer", "Recipe"], ["Voice", "Recipe"]],
  },
  groove: {
    open: [["Between voices", "Feel by step"], ["Variations", "Feel by step"], ["Grooves", "Feel by step"], ["Ideas", "Feel by step"], ["Record live", "Feel by step"], ["Hits", "Feel"], ["Row", "Feel"]],
  },
  mix: { project: "Speed round", open: [["Chains", "Row"], ["Effect", "Row"]] },
  arrange: { open: [["Put", "Section"], ["Draw", "Section"], ["Whole", "Section"]] },
};

for (const [view, { project, open }] of Object.entries(panels))
  test(`${view}: what a panel covers is there again when it closes`, async ({ page, server }) => {
    test.setTimeout(300_000);
    await openView(page, server, view, project);
    await settled(page);
    const seen = new Set<string>();
    for (const [name, back] of open) {
      await openAndClose(page, `${view}: ${name}`, press(page, name), press(page, back), seen.has(name));
      seen.add(name);
    }
  });

test("every menu passes axe, and leaves nothing behind", async ({ page, server }) => {
  test.setTimeout(420_000);
  for (const [view, project] of [["reference", "Warm-up laps"], ["sounds", "Warm-up laps"], ["groove", "Warm-up laps"], ["mix", "Speed round"]] as const) {
    await openView(page, server, view, project);
    await settled(page);
    const before = await shown(page);
    const menus = page.locator("main [aria-haspopup=menu]:visible, header [aria-haspopup]:visible");
    const n = Math.min(await menus.count(), 4);
    for (let i = 0; i < n; i++) {
      await menus.nth(i).click();
      await expect(menus.nth(i)).toHaveAttribute("aria-expanded", "true");
      await passesAxe(page, `${view}: menu ${i + 1}`, { within: "[role=menu]:not([hidden])" });
      await page.keyboard.press("Escape");
      await expect(menus.nth(i)).toHaveAttribute("aria-expanded", "false");
    }
    await expect.poll(() => shown(page)).toEqual(before);
  }
});

test("Space presses the button that has the focus, and plays elsewhere; letters can be switched off", async ({ page, server }) => {
  await openView(page, server, "sounds");
  const find = page.getByRole("button", { name: "Find", exact: true });
  await find.focus();
  await page.keyboard.press("Space");
  await expect(page.getByRole("region", { name: "Find a sound" })).toBeVisible();
  await expect(page.getByRole("button", { name: "Play" })).toBeVisible();
  await find.focus();
  await page.keyboard.press("Space");
  await expect(page.getByRole("region", { name: "Find a sound" })).toHaveCount(0);
  // After a click Space still plays.
  await page.getByRole("tab", { name: "Kick" }).click();
  await page.keyboard.press("Space");
  await expect(page.getByRole("button", { name: "Stop" })).toBeVisible();
  await page.keyboard.press("Space");
  await expect(page.getByRole("button", { name: "Play" })).toBeVisible();
  const theme = () => page.evaluate(() => document.documentElement.dataset.theme);
  const was = await theme();
  await page.getByRole("button", { name: "Keys" }).click();
  await passesAxe(page, "the list of keys");
  await page.getByRole("checkbox", { name: /single letter/ }).uncheck();
  await page.getByRole("dialog").getByRole("button", { name: "Close" }).click();
  await page.keyboard.press("n");
  expect(await theme()).toBe(was);
  await page.getByRole("button", { name: "Keys" }).click();
  await page.getByRole("checkbox", { name: /single letter/ }).check();
  await page.getByRole("dialog").getByRole("button", { name: "Close" }).click();
  await page.keyboard.press("n");
  expect(await theme()).not.toBe(was);
});

test("nothing is cut off or wrapped where there is no recording", async ({ page, server }) => {
  for (const project of ["Night skate", "Warm-up laps"]) {
    await openView(page, server, "sounds", project);
    const cut = await page.evaluate(() => {
      const foot = document.querySelector("footer");
      const bottom = foot?.getBoundingClientRect().bottom ?? 0;
      return [...(foot?.querySelectorAll("*") ?? [])]
        .filter((el) => el.getBoundingClientRect().bottom > bottom + 1 || el.getBoundingClientRect().right > innerWidth + 1)
        .map((el) => el.outerHTML.slice(0, 120));
    });
    expect(cut, project).toEqual([]);
    await expect(page.locator("[data-fact=mix]")).not.toContainText(/\b1 (effects|buses)\b/);
  }
  await page.getByRole("button", { name: "Make variants" }).click();
  const done = await page.getByRole("button", { name: "Done" }).boundingBox();
  const make = await page.getByRole("button", { name: "Make", exact: true }).boundingBox();
  expect(Math.abs((done?.y ?? 0) - (make?.y ?? 99)), "on one line").toBeLessThan(12);
});

/** The buttons and choices in sight of which a corner lies under something else, or
 * beyond the window. */
const covered = (page: Page) =>
  page.evaluate(() =>
    [...document.querySelectorAll<HTMLElement>("button, select")]
      .filter((el) => {
        const box = el.getBoundingClientRect();
        const clip = (el.closest("aside, main > *, nav, header, footer") ?? document.body).getBoundingClientRect();
        if (!el.checkVisibility() || box.width < 8 || box.bottom > Math.min(clip.bottom, innerHeight - 60) || box.top < clip.top) return false;
        const y = box.top + box.height / 2;
        return [box.left + 4, box.right - 4].some((x) => {
          const top = document.elementFromPoint(x, y);
          return top !== null && !el.contains(top) && !top.contains(el);
        });
      })
      .map((el) => el.getAttribute("aria-label") ?? el.textContent),
  );

test("no button lies under another thing", async ({ page, server }) => {
  for (const view of ["reference", "sounds", "groove", "mix", "arrange", "compare", "export"]) {
    await openView(page, server, view, "Warm-up laps");
    await expect.poll(() => covered(page), view).toEqual([]);
  }
});
