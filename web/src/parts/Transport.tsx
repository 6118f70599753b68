// Bottom of the frame: play, position, what is heard, and the output meter.
import { Play, Square } from "lucide-react";
import { memo, useEffect, useRef } from "react";
import { monitor, useMonitor } from "../live/monitor";
import { textEvery, useEvery, write } from "../live/useEvery";
import type { Source } from "../live/wire";
import { useProject } from "../state/project";
import { useActiveReference, useInfo, usePiece } from "../state/queries";
import { barTicks, ppq, secondsOf } from "../state/ticks";
import { firstAt } from "../time/axis";
import { placeText, timeAt } from "../time/piece";
import { Choice } from "./Choice";
import { clock, position } from "./format";
import { Meter } from "./Meter";

const sources: [Source, string, string][] = [
  ["mine", "Mine", "Your groove and kit. M switches"],
  ["reference", "Reference", "The recording; import one to hear it. M switches"],
  ["both", "Both", "The two together, at matched loudness. M switches"],
];

export const Transport = memo(function Transport() {
  const { playing: grooving, studying, source, piece, link } = useMonitor();
  const playing = grooving || studying;
  const beats = useProject((p) => p.state?.document.groove.meter.beats ?? 4);
  const bpm = useProject((p) => p.state?.document.tempo[0]?.bpm ?? 120);
  const ref = useActiveReference();
  const playable = ref?.kind === "audio";
  return (
    <footer className="relative flex h-[60px] shrink-0 items-center gap-3 border-t border-line bg-base-200 px-4">
      <button
        type="button"
        aria-label={playing ? "Stop" : "Play"}
        title="Space"
        onClick={() => monitor.toggle()}
        className="flex size-10 shrink-0 cursor-pointer items-center justify-center rounded-full bg-primary text-primary-content"
      >
        {playing ? (
          <Square size={16} fill="currentColor" />
        ) : (
          <Play size={18} fill="currentColor" className="ml-0.5" />
        )}
      </button>
      <Position beats={beats} bpm={bpm} />
      <Choice
        label="What is heard"
        value={source}
        options={sources}
        disabled={(s) => s !== "mine" && !playable}
        onChange={(s) => monitor.setSource(s)}
      />
      <Choice
        label="What plays"
        value={piece ? "piece" : "groove"}
        options={[
          ["groove", "Groove", "The groove in hand, round and round"],
          ["piece", "Piece", "The arrangement"],
        ]}
        onChange={(v) => monitor.setPiece(v === "piece")}
      />
      <Rounds />
      <span className="grow" />
      <System />
      {link === "lost" && (
        <p
          role="status"
          className="absolute right-4 bottom-full mb-2 rounded-lg border border-line bg-base-100 px-3 py-1.5 text-sm text-error"
        >
          Lost the connection; trying again…{playing && " What plays goes on then."}
        </p>
      )}
      <Meter />
    </footer>
  );
});

/** The speaker simulation: stand-ins for the outside. */
function System() {
  const system = useMonitor((m) => m.system);
  const systems = useInfo().data?.systems ?? [];
  const says = systems.find((s) => s.id === system)?.says ?? "";
  return (
    <select
      className={`press h-8 max-w-[120px] px-1.5 text-xs ${system === "full" ? "" : "bg-row! border-base-content/60!"}`}
      aria-label="Speaker simulation"
      title={`Speaker simulation: ${says}. For listening only; exports are not affected`}
      value={system}
      onChange={(e) => monitor.setSystem(e.target.value)}
    >
      {systems.map((s) => (
        <option key={s.id} value={s.id}>
          {s.label}
        </option>
      ))}
    </select>
  );
}

/** The tempo of the last taps, BPM; nothing before there are three. */
export function tapped(taps: number[], at: number): number | null {
  if (taps.length > 0 && at - (taps.at(-1) ?? 0) > 2000) taps.length = 0;
  taps.push(at);
  if (taps.length > 9) taps.shift();
  if (taps.length < 3) return null;
  const each = ((taps.at(-1) ?? 0) - (taps[0] ?? 0)) / (taps.length - 1);
  const bpm = Math.round(600000 / each) / 10;
  return bpm >= 20 && bpm <= 400 ? bpm : null;
}

/** Where the bars of what plays begin, ticks, and its end. */
function useBars(): number[] {
  const piece = useMonitor((m) => m.piece);
  const facts = usePiece(250).data;
  const meter = useProject((p) => p.state?.document.groove.meter);
  const bars = useProject((p) => p.state?.document.groove.bars ?? 1);
  if (piece) return facts?.bars.map((b) => b.tick) ?? [0, 4 * ppq];
  const bar = meter ? barTicks(meter) : 4 * ppq;
  return Array.from({ length: bars + 1 }, (_, i) => i * bar);
}

/** The loop, the click, the count-in, the tempo by tapping. */
function Rounds() {
  const { loop, click, countIn } = useMonitor();
  const isOpen = useProject((p) => p.state !== null);
  const edit = useProject((p) => p.edit);
  const taps = useRef<number[]>([]);
  const places = useBars();
  const bars = places.length - 1;
  const end = places.at(-1) ?? 0;
  // A loop ends with what plays.
  useEffect(() => {
    if (loop && end > 0 && loop.to > end)
      monitor.setLoop(loop.from < end ? { from: loop.from, to: end } : null);
  }, [loop, end]);
  if (!isOpen) return null;
  const from = loop ? firstAt(places, (p) => p, loop.from + 1) : 1;
  const to = loop ? firstAt(places, (p) => p, loop.to) : bars;
  const set = (a: number, b: number) => {
    const first = Math.min(Math.max(Math.round(a), 1), bars);
    const last = Math.min(Math.max(Math.round(b), first), bars);
    monitor.setLoop(
      first === 1 && last === bars ? null : { from: places[first - 1] ?? 0, to: places[last] ?? end },
    );
  };
  const box = (label: string, value: number, change: (v: number) => void) => (
    <input
      className="press num h-7 w-[44px] cursor-text px-1 text-center"
      type="number"
      aria-label={label}
      min={1}
      max={bars}
      value={value}
      onChange={(e) => change(Number(e.target.value))}
    />
  );
  return (
    <div className="flex items-center gap-1.5 text-xs max-[1100px]:hidden">
      <span className={loop ? "font-semibold text-primary" : "text-muted"}>bars</span>
      {box("Loop start", from, (v) => set(v, Math.max(v, to)))}
      <span className="text-muted">to</span>
      {box("Loop end", to, (v) => set(Math.min(from, v), v))}
      <select
        className="press h-7 px-1.5 text-xs"
        aria-label="Click"
        title="Click (C)"
        value={click}
        onChange={(e) => monitor.setClick(Number(e.target.value))}
      >
        <option value={0}>no click</option>
        <option value={1}>click</option>
        <option value={2}>click: half beats</option>
        <option value={3}>click: triplets</option>
        <option value={4}>click: quarter beats</option>
      </select>
      <select
        className="press h-7 px-1.5 text-xs"
        aria-label="Count-in"
        value={countIn}
        onChange={(e) => monitor.setCountIn(Number(e.target.value))}
      >
        <option value={0}>no count-in</option>
        <option value={1}>1 bar in</option>
        <option value={2}>2 bars in</option>
      </select>
      <button
        type="button"
        className="press h-7 px-2 text-xs"
        title="Tap the tempo (Shift T in Groove)"
        onClick={(e) => {
          const bpm = tapped(taps.current, e.timeStamp);
          if (bpm) edit([{ op: "number.set", at: "tempo/bpm", value: bpm }], "tapping");
        }}
      >
        Tap
      </button>
    </div>
  );
}

function Position({ beats, bpm }: { beats: number; bpm: number }) {
  const bars = useRef<HTMLDivElement>(null);
  const time = useRef<HTMLDivElement>(null);
  const facts = usePiece(250).data;
  useEvery(textEvery, () => {
    const tick = monitor.report.playing ? monitor.report.position : 0;
    if (facts && monitor.report.playing && monitor.report.piece) {
      write(bars.current, placeText(facts, tick));
      write(time.current, clock(timeAt(facts, tick)));
      return;
    }
    write(bars.current, position(tick, beats));
    write(time.current, clock(secondsOf(tick, bpm)));
  });
  return (
    <div className="w-[84px]" role="timer" aria-label="Position">
      <div ref={bars} className="num text-xl font-semibold leading-5" data-testid="position">
        1.1.1
      </div>
      <div ref={time} className="num text-2xs text-muted">
        00:00.000
      </div>
    </div>
  );
}
