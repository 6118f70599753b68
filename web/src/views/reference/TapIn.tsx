// Tapping a groove in: on the keyboard, on pads, or with a controller, to a
// click with a count-in. The take is measured like any other reference.
import { Circle, Square } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import type { Family, State } from "../../api/client";
import { monitor } from "../../live/monitor";
import { Choice } from "../../parts/Choice";
import { familyName, Glyph, hue } from "../../parts/family";
import { num } from "../../parts/format";
import { NumberField } from "../../parts/NumberField";
import { hasMIDI, listenToMIDI, playBack, type Stroke, takes } from "../../standin/controller";
import { useProject } from "../../state/project";
import { ClickClock, medianOffset, type Tapped } from "./clock";

const pads: [Family, string][] = [
  ["kick", "a"],
  ["snare", "s"],
  ["clap", "d"],
  ["rim", "f"],
  ["hat_closed", "j"],
  ["hat_open", "k"],
  ["shaker", "l"],
  ["tom", "h"],
];

const saved = () => Number(localStorage.getItem("tap latency") ?? "0");

export function TapIn({ state, onClose }: { state: State; onClose: () => void }) {
  const box = useRef<HTMLDialogElement>(null);
  const [tempo, setTempo] = useState(state.document.tempo[0]?.bpm ?? 100);
  const [bars, setBars] = useState(4);
  const [late, setLate] = useState(saved);
  const [recording, setRecording] = useState(false);
  const [count, setCount] = useState("");
  const [hits, setHits] = useState<Tapped[]>([]);
  const [lit, setLit] = useState("");
  const [played, setPlayed] = useState(0);
  const [from, setFrom] = useState("pads");
  const clock = useRef<ClickClock | null>(null);
  const stops = useRef<(() => void)[]>([]);
  const strokes = useRef<Stroke[]>([]);
  const beats = state.document.groove.meter.beats;
  const beat = 60 / tempo;
  const voices = state.document.kit.voices;
  const { addTake, tell } = useProject.getState();

  const strike = (s: Stroke) => {
    strokes.current.push(s);
    setPlayed(strokes.current.length);
    const voice = voices.find((v) => v.family === s.family);
    if (voice) void monitor.strike(voice.id, s.velocity);
    setLit(s.family);
    setTimeout(() => setLit((l) => (l === s.family ? "" : l)), 90);
  };
  const struck = useRef(strike);
  struck.current = strike;

  /** The strokes as times from bar one. */
  const tapped = (): Tapped[] => {
    const start = clock.current?.start() ?? null;
    if (start === null) return [];
    return strokes.current
      .map((s) => ({
        time_s: (s.at - start - late) / 1000 - beats * beat,
        family: s.family,
        velocity: s.velocity,
      }))
      .filter((h) => h.time_s > -beat / 2 && h.time_s < bars * beats * beat - 0.02);
  };

  const end = (keep: boolean) => {
    for (const stop of stops.current) stop();
    stops.current = [];
    monitor.watch = null;
    monitor.stop();
    if (keep) setHits(tapped());
    setRecording(false);
    setCount("");
  };
  const finish = useRef(end);
  finish.current = end;

  const record = async () => {
    setHits([]);
    strokes.current = [];
    setPlayed(0);
    setRecording(true);
    setCount("…");
    const total = (bars + 1) * beats * beat;
    await monitor.study({
      click: "beats",
      tempo_bpm: tempo,
      beats,
      bars: bars + 2, // one to count in, one in reserve so that the loop never comes round
    });
    const output = (monitor.context?.outputLatency ?? 0) * 1000;
    const c = new ClickClock((bars + 2) * beats * beat, output);
    clock.current = c;
    let played = false;
    monitor.watch = (r, at) => {
      if (!r.studying) return;
      c.hear(r.position, at);
      const start = c.start() ?? at;
      const now = (performance.now() - start) / 1000;
      const at0 = Math.floor(now / beat);
      setCount(
        at0 < beats
          ? `count-in ${at0 + 1}`
          : `bar ${Math.floor(at0 / beats)} of ${bars}, ${(at0 % beats) + 1}`,
      );
      if (!played && now > (beats - 0.6) * beat && from.startsWith("take ")) {
        played = true;
        const take = takes[Number(from.slice(5))];
        if (take)
          stops.current.push(
            playBack(take, tempo, start + late + beats * beat * 1000, (s) => struck.current(s)),
          );
      }
      if (now >= total) finish.current(true);
    };
    if (from === "midi") {
      try {
        stops.current.push(await listenToMIDI((s) => struck.current(s)));
      } catch (cause) {
        end(false);
        tell(
          cause instanceof Error
            ? cause.message
            : "The browser blocked MIDI. Allow it beside the address, then try again; your take is kept.",
        );
      }
    }
  };

  useEffect(() => {
    box.current?.showModal();
    return () => finish.current(false);
  }, []);
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const el = e.target as HTMLElement;
      if (e.repeat || e.ctrlKey || e.metaKey || /INPUT|SELECT/.test(el.tagName)) return;
      const pad = pads.find(([, key]) => key === e.key.toLowerCase());
      if (!pad) return;
      e.preventDefault();
      struck.current({ family: pad[0], velocity: e.altKey ? 52 : e.shiftKey ? 122 : 98, at: e.timeStamp });
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, []);

  const span = bars * beats * beat;
  const rows = pads.map(([f]) => f).filter((f) => hits.some((h) => h.family === f));
  const others = [...new Set(hits.map((h) => h.family))].filter((f) => !rows.includes(f));
  const offset = medianOffset(hits, tempo);
  const told = (n: number) => (n === 1 ? "1 hit" : `${n} hits`);
  return (
    <dialog
      ref={box}
      onClose={onClose}
      aria-label="Tap in"
      className="m-auto w-[820px] max-w-[94vw] rounded-xl border border-line bg-base-100 p-5 text-base-content backdrop:bg-black/40"
    >
      <div className="mb-3 flex items-center gap-3">
        <h2 className="grow text-2xl">Tap a groove in</h2>
        <button type="button" className="press" onClick={() => box.current?.close()}>
          Close
        </button>
      </div>
      <div className="mb-3 flex flex-wrap items-end gap-4">
        <div className="w-[150px]">
          <NumberField
            compact
            label="Tempo"
            value={tempo}
            unit="BPM"
            min={30}
            max={300}
            step={1}
            digits={1}
            onChange={setTempo}
          />
        </div>
        <Choice
          label="Bars to record"
          value={bars}
          options={[
            [1, "1 bar"],
            [2, "2"],
            [4, "4"],
            [8, "8"],
          ]}
          onChange={setBars}
        />
        <select
          aria-label="Played with"
          className="press w-[230px] px-2"
          value={from}
          onChange={(e) => {
            setFrom(e.target.value);
            const take = takes[Number(e.target.value.slice(5))];
            if (e.target.value.startsWith("take ") && take) setTempo(take.tempo_bpm);
          }}
        >
          <option value="pads">keys and pads</option>
          {hasMIDI() && <option value="midi">MIDI controller</option>}
          {takes.map((t, i) => (
            <option key={t.name} value={`take ${i}`}>
              simulated: {t.name}
            </option>
          ))}
        </select>
        <div className="w-[130px]">
          <NumberField
            compact
            label="Latency"
            value={late}
            unit="ms"
            min={-100}
            max={250}
            step={1}
            digits={0}
            reset={0}
            hint="Taken off every hit: how late your keys or pads arrive"
            onChange={(v) => {
              setLate(v);
              localStorage.setItem("tap latency", String(v));
            }}
          />
        </div>
      </div>
      <fieldset className="mb-3 grid grid-cols-8 gap-2" aria-label="Pads">
        {pads.map(([f, key]) => (
          <button
            key={f}
            type="button"
            className="flex h-[92px] cursor-pointer touch-none select-none flex-col items-center justify-center gap-1 rounded-xl border-2"
            style={{
              borderColor: hue(f),
              background: lit === f ? `color-mix(in oklab, ${hue(f)} 35%, var(--color-base-100))` : undefined,
            }}
            title="Struck higher up, it is louder"
            onPointerDown={(e) => {
              const r = e.currentTarget.getBoundingClientRect();
              const up = 1 - (e.clientY - r.top) / r.height;
              strike({ family: f, velocity: Math.round(45 + 82 * up), at: e.timeStamp });
            }}
          >
            <Glyph family={f} size={22} />
            <span className="text-xs">{familyName(f)}</span>
            <span className="num rounded border border-line px-1.5 text-2xs text-muted">
              {key.toUpperCase()}
            </span>
          </button>
        ))}
      </fieldset>
      <p className="mb-3 text-xs text-muted">
        Keys strike at 98, with Shift at 122, with Alt at 52; pads are louder the higher they are struck.
      </p>
      <div className="flex items-center gap-3">
        {recording ? (
          <button type="button" className="press press-strong" onClick={() => end(true)}>
            <Square size={13} fill="currentColor" /> Stop
          </button>
        ) : (
          <button type="button" className="press press-strong" onClick={() => void record()}>
            <Circle size={13} fill="currentColor" /> {hits.length > 0 ? "Record again" : "Record"}
          </button>
        )}
        <span className="num text-base" role="status">
          {recording
            ? `${count}${played > 0 ? `, ${told(played)}` : ""}`
            : hits.length > 0
              ? `${told(hits.length)}, ${num(offset, 0, true)} ms on the whole`
              : ""}
        </span>
        <span className="grow" />
        {hits.length > 0 && (
          <>
            <button
              type="button"
              className="press"
              title="Uses how late this take was as the latency from now on"
              onClick={() => {
                const next = Math.min(Math.max(Math.round(late + offset), -100), 250);
                setLate(next);
                localStorage.setItem("tap latency", String(next));
                setHits((all) => all.map((h) => ({ ...h, time_s: h.time_s - offset / 1000 })));
              }}
            >
              Use as latency
            </button>
            <button
              type="button"
              className="press press-strong"
              onClick={async () => {
                const name = from.startsWith("take ")
                  ? (takes[Number(from.slice(5))]?.name ?? "Take")
                  : "Tapped take";
                await addTake({ name, tempo_bpm: tempo, beats, hits });
                box.current?.close();
              }}
            >
              Use as reference
            </button>
          </>
        )}
      </div>
      {hits.length > 0 && (
        <svg
          width="100%"
          viewBox={`0 0 780 ${(rows.length + others.length) * 24 + 10}`}
          className="mt-3"
          role="img"
          aria-label="The take on its grid"
        >
          {Array.from({ length: bars * beats + 1 }, (_, i) => i).map((i) => (
            <line
              key={i}
              x1={70 + (i / (bars * beats)) * 700}
              x2={70 + (i / (bars * beats)) * 700}
              y1={2}
              y2={(rows.length + others.length) * 24 + 6}
              stroke={i % beats === 0 ? "var(--line-strong)" : "var(--line)"}
            />
          ))}
          {[...rows, ...others].map((f, r) => (
            <g key={f}>
              <text x={0} y={r * 24 + 20}>
                {familyName(f)}
              </text>
              {hits
                .filter((h) => h.family === f)
                .map((h) => (
                  <circle
                    key={h.time_s}
                    cx={70 + (h.time_s / span) * 700}
                    cy={r * 24 + 16}
                    r={2.5 + h.velocity / 28}
                    fill={hue(f)}
                    opacity={0.85}
                  />
                ))}
            </g>
          ))}
        </svg>
      )}
    </dialog>
  );
}
