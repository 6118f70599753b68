// Firefox on a sound output that plays to nobody.
import { type ChildProcess, execFileSync, spawn } from "node:child_process";
import { existsSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import puppeteer, { type Browser } from "puppeteer-core";

const executablePath = "/usr/bin/firefox-esr";

export const hasFirefox = existsSync(executablePath);

export class Firefox {
  private readonly home = mkdtempSync(join(tmpdir(), "jubrak-firefox-"));
  private readonly env = { ...process.env, HOME: this.home, XDG_RUNTIME_DIR: this.home, PULSE_SERVER: join(this.home, "sound") };
  private output: ChildProcess | null = null;
  private browser: Browser | null = null;

  /** Opens a page that may play without a gesture. */
  async page(url: string) {
    this.browser = await puppeteer.launch({
      browser: "firefox",
      executablePath,
      headless: true,
      env: this.env,
      extraPrefsFirefox: { "media.autoplay.default": 0, "media.autoplay.blocking_policy": 0 },
    });
    const page = await this.browser.newPage();
    await page.setViewport({ width: 1280, height: 800 });
    await page.goto(url);
    return page;
  }

  /** Starts the system's sound, with an output or without one. */
  async sound(output: boolean) {
    const socket = this.env.PULSE_SERVER;
    const modules = [...(output ? ["module-null-sink"] : []), `module-native-protocol-unix auth-anonymous=1 socket=${socket}`];
    this.output = spawn("pulseaudio", ["-n", "--daemonize=no", "--exit-idle-time=-1", ...modules.flatMap((m) => ["-L", m])], {
      env: this.env,
      stdio: "ignore",
    });
    while (!existsSync(socket)) await new Promise((done) => setTimeout(done, 20));
  }

  /** Connects an output. */
  connect() {
    execFileSync("pactl", ["load-module", "module-null-sink"], { env: this.env });
  }

  async remove() {
    await this.browser?.close();
    this.output?.kill();
    rmSync(this.home, { recursive: true, force: true });
  }
}
