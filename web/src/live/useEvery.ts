// What follows the sound while there is any, past React. It looks every so often by a timer:
// an animation frame that is asked for makes the browser draw one, whether anything changed or not.
import { useEffect, useRef } from "react";
import { useMonitor } from "./monitor";

/** How often texts that follow the sound are written, ms: more cannot be read. */
export const textEvery = 100;

/** How often what must keep up with the picture is looked at, ms. */
export const eachFrame = 16;

/** Calls f every so many ms once sound has begun; before and behind that once, as silent. */
export function useEvery(every: number, f: (silent: boolean) => void) {
  const latest = useRef(f);
  latest.current = f;
  const silent = useMonitor((m) => m.link === "idle");
  useEffect(() => {
    latest.current(silent);
    if (silent) return;
    const timer = setInterval(() => latest.current(false), every);
    return () => clearInterval(timer);
  }, [silent, every]);
}

/** Writes a text where it is another one: each writing makes the browser lay the page out. */
export function write(el: HTMLElement | null, text: string) {
  if (el && el.textContent !== text) el.textContent = text;
}
