// The line that moves with the sound, past React, since it changes all the time.
import { useEffect, useRef } from "react";
import { monitor, useMonitor } from "../live/monitor";
import { eachFrame } from "../live/useEvery";
import { Gliding, glidesTo, longest } from "../time/glide";

export function Playhead({
  toX,
  study,
  piece = false,
  colour = "var(--color-primary)",
}: {
  toX: (tick: number) => number | null;
  /** Where the part of a study's way lies. */
  study?: (part: number) => number | null;
  /** Whether toX takes ticks of the arrangement. */
  piece?: boolean;
  colour?: string;
}) {
  const line = useRef<HTMLDivElement>(null);
  const playing = useMonitor((m) => m.playing || (m.studying && study !== undefined));
  const place = useRef({ toX, study, piece });
  place.current = { toX, study, piece };
  useEffect(() => {
    if (!playing) return;
    let glides: Animation | null = null;
    const gliding = new Gliding();
    let last: { place: number; x: number } | null = null;
    const move = () => {
      const el = line.current;
      const r = monitor.report;
      const { toX, study, piece } = place.current;
      const to = r.playing ? (r.piece === piece ? toX : undefined) : r.studying ? study : undefined;
      const x = to?.(r.position) ?? null;
      const there = last && (to?.(last.place) ?? null);
      if (last && there !== null && there !== last.x) gliding.shift(there - last.x);
      last = x === null ? null : { place: r.position, x };
      if (el && x === null) {
        gliding.stop();
        glides?.cancel();
        glides = null;
      }
      const next = x === null ? null : gliding.at(x, monitor.reportAt);
      if (el && next) {
        const now = performance.now();
        glides?.cancel();
        glides = el.animate(
          [now, now + longest].map((at) => ({
            transform: `translateX(${glidesTo(next, at)}px)`,
            opacity: 1,
          })),
          { duration: longest, fill: "forwards" },
        );
      }
    };
    const timer = setInterval(move, eachFrame);
    return () => {
      clearInterval(timer);
      glides?.cancel();
    };
  }, [playing]);
  if (!playing) return null;
  return (
    <div
      ref={line}
      aria-hidden="true"
      className="pointer-events-none absolute inset-y-0 left-0 z-10 w-[2px] opacity-0 will-change-transform"
      style={{ background: colour }}
    />
  );
}
