// Something of a reference is heard in place of the groove: once, or round and round. What is
// heard ends with the view that asked for it.
import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../api/client";
import { monitor, useMonitor } from "./monitor";

/** How long the monitor goes on after what is heard once, ms: what it has made ahead. */
const after = 180;

/** What is heard now counts on: who began something earlier does not end what came later. */
let latest = 0;

export function useHearing() {
  const timer = useRef<ReturnType<typeof setTimeout> | null>(null);
  const mine = useRef(false);
  const [what, setWhat] = useState("");
  const studying = useMonitor((m) => m.studying);
  const clear = () => {
    if (timer.current) clearTimeout(timer.current);
    timer.current = null;
  };
  const stop = () => {
    clear();
    mine.current = false;
    setWhat("");
    monitor.stop();
  };
  useEffect(
    () => () => {
      if (timer.current) clearTimeout(timer.current);
      if (mine.current && useMonitor.getState().studying) monitor.stop();
      mine.current = false;
    },
    [],
  );
  return {
    /** What is heard, by the name it was given; empty is nothing of this view. */
    heard: studying ? what : "",
    /** Hears something once, for so many seconds from when it sounds, or, without an end, round and round. */
    hear: (name: string, how: Partial<Schemas["AuditionSettings"]>, seconds?: number) => {
      clear();
      mine.current = true;
      setWhat(name);
      latest += 1;
      const begun = latest;
      void monitor.study(how, () => {
        if (seconds === undefined || begun !== latest || !mine.current) return;
        timer.current = setTimeout(
          () => {
            if (begun === latest && useMonitor.getState().studying) stop();
            else setWhat("");
          },
          seconds * 1000 + after,
        );
      });
    },
    stop,
  };
}
