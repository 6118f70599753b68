// Above the recording: what was heard of tempo, meter and grid, to be set
// right.
import { ChevronLeft, ChevronRight } from "lucide-react";
import { type ReactNode, useEffect, useRef, useState } from "react";
import type { Analysis, Schemas } from "../../api/client";
import { useKeys } from "../../keys/useKeys";
import { Choice } from "../../parts/Choice";
import { NumberField } from "../../parts/NumberField";
import { useInfo } from "../../state/queries";

export type Correction = Schemas["Correction"];

const grids = [
  ["straight", "Straight", "Hits belong to sixteenths"],
  ["triplet", "Triplet", "Hits belong to eighth triplets"],
] as const;

export function Tools({
  analysis,
  correct,
  children,
}: {
  analysis: Analysis;
  correct: (c: Correction) => void;
  children: ReactNode;
}) {
  const none = !analysis.grid;
  const limits = useInfo().data?.limits;
  const grid = analysis.steps_per_beat === 3 ? "triplet" : "straight";
  return (
    <div className="mb-2 flex flex-wrap items-center gap-x-2 gap-y-1.5 text-sm max-[1200px]:gap-x-1.5">
      <div className="w-[140px] max-[1200px]:w-[142px]">
        <NumberField
          compact
          label="Tempo"
          value={analysis.tempo_bpm ?? 120}
          unit="BPM"
          min={limits?.heard_bpm[0] ?? 0}
          max={limits?.heard_bpm[1] ?? 0}
          digits={2}
          step={0.1}
          hint="Type a tempo; it is kept as you type it"
          onChange={(value) => correct({ kind: "tempo", value })}
        />
      </div>
      <button
        type="button"
        className="press px-2.5 max-[1200px]:px-1.5"
        disabled={none}
        title="The tempo is half as fast"
        onClick={() => correct({ kind: "halve" })}
      >
        Halve
      </button>
      <button
        type="button"
        className="press px-2.5 max-[1200px]:px-1.5"
        disabled={none}
        title="The tempo is twice as fast"
        onClick={() => correct({ kind: "double" })}
      >
        Double
      </button>
      <Tap onTempo={(value) => correct({ kind: "tapped", value })} />
      <select
        aria-label="Meter"
        title="Meter"
        className="press px-1.5"
        disabled={none}
        value={analysis.meter}
        onChange={(e) => correct({ kind: "meter", text: e.target.value })}
      >
        {[...new Set([...(limits?.meters ?? []), analysis.meter])].map((m) => (
          <option key={m}>{m}</option>
        ))}
      </select>
      <span className="contents max-[1200px]:hidden">
        <Choice
          label="Grid"
          value={grid}
          options={grids}
          disabled={() => none}
          onChange={(text) => correct({ kind: "grid", text })}
        />
      </span>
      <select
        aria-label="Grid"
        title="The steps that hits belong to"
        className="press px-1 min-[1201px]:hidden"
        disabled={none}
        value={grid}
        onChange={(e) => correct({ kind: "grid", text: e.target.value })}
      >
        {grids.map(([v, text]) => (
          <option key={v} value={v}>
            {text}
          </option>
        ))}
      </select>
      <span className="ml-1 text-muted max-[1200px]:hidden">Bar one</span>
      {([-1, 1] as const).map((by) => (
        <button
          key={by}
          type="button"
          className="press -ml-1 px-1.5 max-[1200px]:px-1"
          disabled={none}
          aria-label={`Bar one a beat ${by < 0 ? "earlier" : "later"}`}
          title={`Bar one a beat ${by < 0 ? "earlier" : "later"}`}
          onClick={() => correct({ kind: "bar_one", beats: by })}
        >
          {by < 0 ? <ChevronLeft size={15} /> : <ChevronRight size={15} />}
        </button>
      ))}
      {children}
    </div>
  );
}

const most = 2500; // ms without a tap after which the tempo is taken

/** The tempo of taps, as the median of their distances. */
export function tappedTempo(times: number[]): number | null {
  if (times.length < 4) return null;
  const gaps = times.slice(1).map((t, i) => t - (times[i] ?? 0));
  gaps.sort((a, b) => a - b);
  const middle = gaps[Math.floor(gaps.length / 2)] ?? 500;
  return 60000 / middle;
}

/** A button, and the key T, to tap the beat; the tempo is taken when the tapping ends. */
function Tap({ onTempo }: { onTempo: (bpm: number) => void }) {
  const [taps, setTaps] = useState<number[]>([]);
  const take = useRef(onTempo);
  take.current = onTempo;
  useEffect(() => {
    if (taps.length === 0) return;
    const gap = taps.length > 1 ? ((taps.at(-1) ?? 0) - (taps[0] ?? 0)) / (taps.length - 1) : 900;
    const timer = setTimeout(
      () => {
        const bpm = tappedTempo(taps);
        if (bpm !== null) take.current(Math.min(Math.max(bpm, 30), 300));
        setTaps([]);
      },
      Math.min(2.2 * gap, most),
    );
    return () => clearTimeout(timer);
  }, [taps]);
  useKeys("tapping", { tap: (e) => !e.repeat && setTaps((t) => [...t.slice(-15), e.timeStamp]) });
  const bpm = tappedTempo(taps);
  return (
    <button
      type="button"
      className="press w-[62px] px-1 max-[1200px]:w-[46px]"
      title="Tap the beat four times or more, here or with T"
      onPointerDown={(e) => {
        const at = e.timeStamp;
        setTaps((t) => [...t.slice(-15), at]);
      }}
    >
      {taps.length === 0 ? "Tap" : bpm === null ? `${4 - taps.length} more` : bpm.toFixed(1)}
    </button>
  );
}
