// What follows the sound while there is any, past React.
import { useEffect, useRef } from "react";
import { useMonitor } from "./monitor";

/** How often texts that follow the sound are written, ms: more cannot be read. */
export const textEvery = 100;

/** Calls f about every so many ms once sound has begun; before and behind that once, as silent. */
export function useFrames(every: number, f: (silent: boolean) => void) {
  const latest = useRef(f);
  latest.current = f;
  const silent = useMonitor((m) => m.link === "idle");
  useEffect(() => {
    latest.current(silent);
    if (silent) return;
    let frame = 0;
    let last = 0;
    const run = (now: number) => {
      frame = requestAnimationFrame(run);
      if (now - last < every) return;
      last = now;
      latest.current(false);
    };
    frame = requestAnimationFrame(run);
    return () => cancelAnimationFrame(frame);
  }, [silent, every]);
}

/** Writes a text where it is another one: each writing makes the browser lay the page out. */
export function write(el: HTMLElement | null, text: string) {
  if (el && el.textContent !== text) el.textContent = text;
}
