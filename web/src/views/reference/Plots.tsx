// Below the recording: what follows from its hits, as plots.
import { useState } from "react";
import type { Analysis, Family, Schemas } from "../../api/client";
import { Choice } from "../../parts/Choice";
import { familyName, hue } from "../../parts/family";
import { num } from "../../parts/format";
import { Cuts } from "./Cuts";
import { Keys } from "./Keys";
import type { Correction } from "./Tools";

type Tab = "feel" | "velocity" | "tempo" | "spectrum" | "cuts" | "keys";

const explained: Record<Tab, string> = {
  feel: "mean and spread, ms, by step; hollow: under four hits; shaded: too small to hear",
  velocity: "mean and spread by step of the pattern",
  tempo: "bar by bar, with its uncertainty",
  spectrum: "average in third octaves against the whole, dB",
  cuts: "the cleanest hits of each family, as they are",
  keys: "the keys of the MIDI file",
};

export function Plots(p: {
  analysis: Analysis;
  /** The recording, where there is one to cut. */
  recording: string | null;
  correct: (c: Correction) => void;
  width: number;
  height: number;
}) {
  const { analysis, width, height } = p;
  const [tab, setTab] = useState<Tab>("feel");
  return (
    <section className="mt-3" aria-label="Plots">
      <div className="mb-1 flex items-center gap-3">
        <Choice
          label="Plot"
          value={tab}
          options={[
            ["feel", "Feel"],
            ["velocity", "Velocity"],
            ["tempo", "Tempo"],
            ["spectrum", "Spectrum"],
            p.recording ? ["cuts", "Cuts"] : ["keys", "Keys"],
          ]}
          onChange={setTab}
        />
        <span className="text-xs text-muted">{explained[tab]}</span>
      </div>
      {tab === "feel" && <ByStep analysis={analysis} width={width} height={height} of="offset" />}
      {tab === "velocity" && <ByStep analysis={analysis} width={width} height={height} of="velocity" />}
      {tab === "tempo" && <Tempo analysis={analysis} width={width} height={height} />}
      {tab === "keys" && <Keys analysis={analysis} correct={p.correct} />}
      {tab === "cuts" && p.recording && <Cuts analysis={analysis} reference={p.recording} />}
      {tab === "spectrum" && <Bands analysis={analysis} width={width} height={height} />}
    </section>
  );
}

const hearing = 6; // ms: Friberg & Sundberg 1995, spacings below 240 ms
const left = 46;

function Empty({ width, height, text }: { width: number; height: number; text: string }) {
  return (
    <p className="flex items-center justify-center text-muted" style={{ width, height }}>
      {text}
    </p>
  );
}

function ByStep(p: { analysis: Analysis; width: number; height: number; of: "offset" | "velocity" }) {
  const { analysis, width, height } = p;
  if (analysis.by_step.length === 0) return <Empty width={width} height={height} text="No beat was found." />;
  const perBar = analysis.steps_per_beat * (analysis.grid?.beats_per_bar ?? 4);
  const steps = perBar * (analysis.cycle_bars ?? 1);
  const timing = p.of === "offset";
  // Covered hits have no time of their own.
  const speaking = (s: Schemas["StepStat"]) => (timing ? s.timed : s.count);
  const stats = analysis.by_step.filter((s) => speaking(s) > 0);
  const most = Math.max(20, ...stats.map((s) => Math.abs(s.offset_ms) + s.offset_sd_ms));
  const range = timing ? Math.ceil((Math.min(most, 90) + 4) / 10) * 10 : 127;
  const bottom = height - 16;
  const x = (step: number) => left + ((step + 0.5) / steps) * (width - left - 12);
  const y = (v: number) =>
    timing
      ? (bottom + 8) / 2 - (Math.max(Math.min(v, range), -range) / range) * (bottom / 2 - 10)
      : bottom - (v / 127) * (bottom - 10);
  const families = [...new Set(stats.map((s) => s.family))];
  const room = Math.min(((width - left - 12) / steps) * 0.8, 13 * families.length);
  const aside = (f: Family) => ((families.indexOf(f) + 0.5) / families.length - 0.5) * room;
  const ticks = timing ? [-range, -range / 2, 0, range / 2, range] : [0, 32, 64, 96, 127];
  const label = (s: Schemas["StepStat"]) =>
    `${familyName(s.family)}, step ${s.step + 1}: ${
      timing
        ? `${num(s.offset_ms, 1, true)} ms, spread ${num(s.offset_sd_ms)} ms`
        : `velocity ${num(s.velocity, 0)}, spread ${num(s.velocity_sd, 0)}`
    }, ${speaking(s)} ${speaking(s) === 1 ? "hit: not enough to say" : speaking(s) < 4 ? "hits: not enough to say" : "hits"}`;
  return (
    <svg
      width={width}
      height={height}
      role="img"
      aria-label={timing ? "Mean offset by step, in milliseconds" : "Mean velocity by step"}
    >
      {timing && (
        <rect
          x={left}
          y={y(hearing)}
          width={width - left - 10}
          height={y(-hearing) - y(hearing)}
          fill="var(--color-base-300)"
          opacity={0.75}
        />
      )}
      {ticks.map((t) => (
        <g key={t}>
          <line x1={left} x2={width - 10} y1={y(t)} y2={y(t)} stroke="var(--line)" />
          <text x={left - 6} y={y(t) + 4} textAnchor="end">
            {timing && t > 0 ? `+${t}` : t < 0 ? `−${-t}` : t}
          </text>
        </g>
      ))}
      {Array.from({ length: steps }, (_, i) => i)
        .filter((s) => steps <= 32 || s % analysis.steps_per_beat === 0)
        .map((s) => {
          const strong = s % perBar === 0 || (steps <= 32 && s % analysis.steps_per_beat === 0);
          return (
            <text
              key={s}
              x={x(s)}
              y={height - 2}
              textAnchor="middle"
              style={strong ? { fill: "var(--color-base-content)", fontWeight: 600 } : {}}
            >
              {steps <= 32 ? (s % perBar) + 1 : s % perBar === 0 ? `bar ${s / perBar + 1}` : ""}
            </text>
          );
        })}
      {stats.map((s) => {
        const at = x(s.step) + aside(s.family);
        const mean = timing ? s.offset_ms : s.velocity;
        const sd = timing ? s.offset_sd_ms : s.velocity_sd;
        const enough = speaking(s) >= 4;
        return (
          <g key={`${s.family} ${s.step}`} opacity={enough ? 1 : 0.7}>
            <title>{label(s)}</title>
            {!timing && (
              <line
                x1={at}
                x2={at}
                y1={y(0)}
                y2={y(mean)}
                stroke={hue(s.family)}
                strokeWidth={2}
                opacity={0.35}
              />
            )}
            {enough && (
              <line
                x1={at}
                x2={at}
                y1={y(mean - sd)}
                y2={y(Math.min(mean + sd, timing ? range : 127))}
                stroke={hue(s.family)}
                strokeWidth={timing ? 5 : 4}
                strokeLinecap="round"
                opacity={0.3}
              />
            )}
            <circle
              cx={at}
              cy={y(mean)}
              r={3.8}
              fill={enough ? hue(s.family) : "var(--color-base-100)"}
              stroke={hue(s.family)}
              strokeWidth={1.4}
            />
          </g>
        );
      })}
      {timing && (
        <>
          <text x={left - 6} y={y(range * 0.75) + 4} textAnchor="end" style={{ fill: "var(--late)" }}>
            late
          </text>
          <text x={left - 6} y={y(-range * 0.75) + 4} textAnchor="end" style={{ fill: "var(--early)" }}>
            early
          </text>
        </>
      )}
    </svg>
  );
}

function Tempo({ analysis, width, height }: { analysis: Analysis; width: number; height: number }) {
  const curve = analysis.tempo_curve;
  if (curve.length < 2)
    return <Empty width={width} height={height} text="Too short to measure the tempo bar by bar." />;
  const middle = analysis.tempo_bpm ?? 120;
  const most = Math.max(1, ...curve.map((c) => Math.abs(c.tempo_bpm - middle) + c.stderr_bpm)) * 1.15;
  const last = Math.max(...curve.map((c) => c.bar));
  const bottom = height - 16;
  const x = (bar: number) => left + 14 + (bar / Math.max(last, 1)) * (width - left - 36);
  const y = (bpm: number) => (bottom + 6) / 2 - ((bpm - middle) / most) * (bottom / 2 - 8);
  const above = curve.map((c) => `${x(c.bar)},${y(c.tempo_bpm + c.stderr_bpm)}`);
  const below = curve.map((c) => `${x(c.bar)},${y(c.tempo_bpm - c.stderr_bpm)}`).reverse();
  const every = Math.ceil((last + 1) / 16);
  return (
    <svg width={width} height={height} role="img" aria-label="Tempo bar by bar">
      {[middle - most / 1.15, middle, middle + most / 1.15].map((t) => (
        <g key={t}>
          <line x1={left} x2={width - 10} y1={y(t)} y2={y(t)} stroke="var(--line)" />
          <text x={left - 6} y={y(t) + 4} textAnchor="end">
            {num(t, 1)}
          </text>
        </g>
      ))}
      <polygon points={[...above, ...below].join(" ")} fill="var(--color-primary)" opacity={0.18} />
      <polyline
        points={curve.map((c) => `${x(c.bar)},${y(c.tempo_bpm)}`).join(" ")}
        fill="none"
        stroke="var(--color-primary)"
        strokeWidth={2}
      />
      {curve.map((c) => (
        <g key={c.bar}>
          <circle cx={x(c.bar)} cy={y(c.tempo_bpm)} r={3.4} fill="var(--color-primary)">
            <title>{`Bar ${c.bar + 1}: ${num(c.tempo_bpm, 2)} ±${num(c.stderr_bpm, 2)} BPM`}</title>
          </circle>
          {c.bar % every === 0 && (
            <text x={x(c.bar)} y={height - 2} textAnchor="middle">
              {c.bar + 1}
            </text>
          )}
        </g>
      ))}
    </svg>
  );
}

const regions: [keyof Schemas["Balance"], string][] = [
  ["sub", "Sub 20–60"],
  ["low", "Low 60–150"],
  ["low_mid", "Low mid 150–600"],
  ["presence", "Presence 600–5k"],
  ["air", "Air 5k–20k"],
];

export function Bands({ analysis, width, height }: { analysis: Analysis; width: number; height: number }) {
  const bands = analysis.third_octaves;
  if (bands.length === 0)
    return <Empty width={width} height={height} text="A MIDI performance has no spectrum." />;
  const inner = width - 190;
  const floor = -60;
  const bottom = height - 16;
  const x = (i: number) => left + (i / bands.length) * (inner - left);
  const y = (db: number) => 6 + (Math.max(db, floor) / floor) * (bottom - 6);
  const named = new Set([50, 100, 200, 500, 1000, 2000, 5000, 10000]);
  const nominal = (hz: number) => [...named].find((n) => Math.abs(Math.log2(n / hz)) < 0.05);
  return (
    <div className="flex">
      <svg width={inner} height={height} role="img" aria-label="Average spectrum in third octaves">
        {[0, -20, -40, -60].map((t) => (
          <g key={t}>
            <line x1={left} x2={inner} y1={y(t)} y2={y(t)} stroke="var(--line)" />
            <text x={left - 6} y={y(t) + 4} textAnchor="end">
              {t < 0 ? `−${-t}` : t}
            </text>
          </g>
        ))}
        {bands.map((b, i) => (
          <g key={b.hz}>
            <rect
              x={x(i) + 1}
              y={y(b.db)}
              width={Math.max(x(1) - x(0) - 2, 1)}
              height={Math.max(bottom - y(b.db), 0)}
              fill="var(--color-base-content)"
              opacity={0.62}
            >
              <title>{`${num(b.hz, 0)} Hz: ${num(b.db)} dB`}</title>
            </rect>
            {nominal(b.hz) && (
              <text x={x(i + 0.5)} y={height - 2} textAnchor="middle">
                {(nominal(b.hz) ?? 0) >= 1000 ? `${(nominal(b.hz) ?? 0) / 1000}k` : nominal(b.hz)}
              </text>
            )}
          </g>
        ))}
      </svg>
      <table className="ml-4 h-fit w-[174px] text-xs">
        <tbody>
          {regions.map(([key, name]) => (
            <tr key={key} className="border-b border-line/70">
              <th scope="row" className="py-1 text-left font-normal">
                {name}
              </th>
              <td className="num text-right">{num(analysis.balance_db?.[key])} dB</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
