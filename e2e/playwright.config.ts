import { defineConfig } from "@playwright/test";

// Some walks have the machine to themselves (base.ts); the others go two at a time.
const alone = /@alone/;

export default defineConfig({
  testDir: "tests",
  globalSetup: "./demo.ts",
  workers: 2,
  fullyParallel: true,
  projects: [
    { name: "silent", grepInvert: alone },
    { name: "sounding", grep: alone, workers: 1, dependencies: ["silent"] },
  ],
  // Generous: the machine that runs the tests may be busy. No second try, which would
  // hide what fails now and then.
  retries: 0,
  timeout: 180_000,
  expect: { timeout: 60_000 },
  reporter: "list",
  use: {
    viewport: { width: 1280, height: 800 },
    colorScheme: "light",
    actionTimeout: 60_000,
    launchOptions: {
      executablePath: "/usr/bin/chromium",
      args: [
        "--no-sandbox",
        "--disable-gpu",
        "--disable-quic",
        "--use-fake-device-for-media-stream",
        "--use-fake-ui-for-media-stream",
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
        "--autoplay-policy=no-user-gesture-required",
      ],
    },
  },
});
