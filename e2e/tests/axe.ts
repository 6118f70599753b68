// Accessibility by axe, put into the page once: each look takes a fraction of a second.
import type { Page } from "@playwright/test";
import axe, { type RunOptions } from "axe-core";
import { expect } from "./base.js";

/** The whole page, or what a selector finds on it, breaks no rule; or none of those named. */
export async function passesAxe(page: Page, what: string, { within, rules }: { within?: string; rules?: string[] } = {}) {
  if (!(await page.evaluate(() => "axe" in window))) await page.evaluate(axe.source);
  const options: RunOptions = { resultTypes: ["violations"], ...(rules && { runOnly: { type: "rule", values: rules } }) };
  const found = await page.evaluate(
    async ({ within, options }) => {
      const run = (window as any).axe.run as typeof axe.run;
      const { violations } = await run((within && document.querySelector(within)) || document, options);
      return violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.html.slice(0, 160)).join(" ; ")}`);
    },
    { within, options },
  );
  expect(found, what).toEqual([]);
}
