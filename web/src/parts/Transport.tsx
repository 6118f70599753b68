// Bottom of the frame: play, position, what is heard, and the output meter.
import { Play, Square } from "lucide-react";
import { useEffect, useRef } from "react";
import { monitor, useMonitor } from "../live/monitor";
import type { Source } from "../live/wire";
import { useProject } from "../state/project";
import { useActiveReference } from "../state/queries";
import { Choice } from "./Choice";
import { clock, num, position } from "./format";

const sources: [Source, string, string][] = [
  ["mine", "Mine", "M switches"],
  ["reference", "Reference", "M switches"],
  ["both", "Both", "M switches"],
];

export function Transport() {
  const { playing: grooving, studying, source, link } = useMonitor();
  const playing = grooving || studying;
  const doc = useProject((p) => p.state?.document);
  const ref = useActiveReference();
  const playable = ref?.kind === "audio";
  return (
    <footer className="flex h-[60px] shrink-0 items-center gap-5 border-t border-line bg-base-200 px-4">
      <button
        type="button"
        aria-label={playing ? "Stop" : "Play"}
        title="Space"
        onClick={() => monitor.toggle()}
        className="flex size-10 cursor-pointer items-center justify-center rounded-full bg-primary text-primary-content"
      >
        {playing ? (
          <Square size={16} fill="currentColor" />
        ) : (
          <Play size={18} fill="currentColor" className="ml-0.5" />
        )}
      </button>
      <Position beats={doc?.groove.meter.beats ?? 4} bpm={doc?.tempo[0]?.bpm ?? 120} />
      <Choice
        label="What is heard"
        value={source}
        options={sources}
        disabled={(s) => s !== "mine" && !playable}
        onChange={(s) => monitor.setSource(s)}
      />
      <span className="text-[12px] text-muted">
        {playable ? "level matched" : "no recording to play beside"}
      </span>
      <span className="grow" />
      {link === "lost" && <span className="text-[13px] text-error">Lost the connection; trying again…</span>}
      <Meter />
    </footer>
  );
}

/** Calls f in every animation frame. */
function useFrames(f: () => void) {
  const latest = useRef(f);
  latest.current = f;
  useEffect(() => {
    let frame = 0;
    const run = () => {
      latest.current();
      frame = requestAnimationFrame(run);
    };
    frame = requestAnimationFrame(run);
    return () => cancelAnimationFrame(frame);
  }, []);
}

function Position({ beats, bpm }: { beats: number; bpm: number }) {
  const bars = useRef<HTMLDivElement>(null);
  const time = useRef<HTMLDivElement>(null);
  useFrames(() => {
    const tick = monitor.report.playing ? monitor.report.position : 0;
    if (bars.current) bars.current.textContent = position(tick, beats);
    if (time.current) time.current.textContent = clock((tick * 60) / (bpm * 960));
  });
  return (
    <div className="w-[84px]" role="timer" aria-label="Position">
      <div ref={bars} className="num text-[17px] font-semibold leading-5" data-testid="position">
        1.1.1
      </div>
      <div ref={time} className="num text-[11px] text-muted">
        00:00.000
      </div>
    </div>
  );
}

const floor = -48; // dB, the left end of the meter

function Meter() {
  const left = useRef<HTMLDivElement>(null);
  const right = useRef<HTMLDivElement>(null);
  const peak = useRef<HTMLSpanElement>(null);
  const loud = useRef<HTMLSpanElement>(null);
  const held = useRef({ left: floor, right: floor, peak: Number.NEGATIVE_INFINITY, until: 0 });
  useFrames(() => {
    const r = monitor.report;
    const h = held.current;
    const db = (x: number) => (x > 0 ? 20 * Math.log10(x) : Number.NEGATIVE_INFINITY);
    h.left = Math.max(db(r.peakLeft), h.left - 0.7, floor);
    h.right = Math.max(db(r.peakRight), h.right - 0.7, floor);
    const now = performance.now();
    const top = Math.max(db(r.peakLeft), db(r.peakRight));
    if (top > h.peak || now > h.until) {
      h.peak = top;
      h.until = now + 1500;
    }
    const width = (v: number) => `${(1 - v / floor) * 100}%`;
    if (left.current) left.current.style.width = width(h.left);
    if (right.current) right.current.style.width = width(h.right);
    if (peak.current) {
      peak.current.textContent = `${num(h.peak)} dBFS`;
      peak.current.style.color = h.peak > 0 ? "var(--color-error)" : "";
    }
    if (loud.current)
      loud.current.textContent = r.held ? "limited" : r.loudness > -70 ? `${num(r.loudness)} LUFS` : "– LUFS";
  });
  const bar = (ref: React.RefObject<HTMLDivElement | null>) => (
    <div className="h-2 w-40 overflow-hidden rounded bg-base-300">
      <div ref={ref} className="h-full rounded bg-info" style={{ width: 0 }} />
    </div>
  );
  return (
    <div
      className="flex items-center gap-4"
      title="Output: sample peak and momentary loudness. What lies above 0 dBFS is limited before you hear it"
      data-testid="meter"
    >
      <div className="flex flex-col gap-1" aria-hidden="true">
        {bar(left)}
        {bar(right)}
      </div>
      <div className="num flex w-[92px] flex-col text-right text-[12px]">
        <span ref={peak}>– dBFS</span>
        <span ref={loud} className="text-muted">
          – LUFS
        </span>
      </div>
    </div>
  );
}
