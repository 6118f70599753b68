// Every hit's offset by its step: mine filled, the reference's hollow.
import type { Analysis, State } from "../../api/client";
import { hue } from "../../parts/family";
import { laneOf } from "./selection";

const hearing = 6; // ms: Friberg & Sundberg 1995, spacings below 240 ms

export function FeelPlot({
  state,
  analysis,
  width,
  height,
}: {
  state: State;
  analysis: Analysis | undefined;
  width: number;
  height: number;
}) {
  const g = state.document.groove;
  const steps = g.meter.beats * (4 / g.meter.unit) * 4;
  const stepOf = (tick: number) => (tick / 240) % steps;
  const mine = state.falls.flatMap((f) => {
    const voice = state.document.kit.voices.find((v) => v.id === f.voice);
    const hit = laneOf(state, f.voice).find((h) => h.id === f.hit);
    return voice && hit
      ? [{ step: stepOf(hit.tick), offset: f.offset_ms, family: voice.family, key: `${f.voice}${f.hit}` }]
      : [];
  });
  const theirs = (analysis?.hits ?? []).flatMap((h) =>
    h.step !== null && h.offset_ms !== null
      ? [{ step: h.step, offset: h.offset_ms, family: h.family, key: h.id }]
      : [],
  );
  const most = Math.min(
    Math.max(20, ...mine.map((m) => Math.abs(m.offset)), ...theirs.map((t) => Math.abs(t.offset) * 0.9)),
    90,
  );
  const range = Math.ceil((most + 4) / 10) * 10;
  const left = 46;
  const x = (step: number) => left + ((step + 0.5) / steps) * (width - left - 12);
  const y = (ms: number) => height / 2 - 8 - (ms / range) * (height / 2 - 18);
  const ticks = [-range, -range / 2, 0, range / 2, range];
  return (
    <svg width={width} height={height} role="img" aria-label="Offset of every hit by step, in milliseconds">
      <rect
        x={left}
        y={y(hearing)}
        width={width - left - 10}
        height={y(-hearing) - y(hearing)}
        fill="var(--color-base-300)"
        opacity={0.75}
      />
      {ticks.map((t) => (
        <g key={t}>
          <line x1={left} x2={width - 10} y1={y(t)} y2={y(t)} stroke="var(--line)" />
          <text x={left - 6} y={y(t) + 4} textAnchor="end">
            {t > 0 ? `+${t}` : t < 0 ? `−${-t}` : "0"}
          </text>
        </g>
      ))}
      {Array.from({ length: steps }, (_, i) => i).map((s) => (
        <text
          key={s}
          x={x(s)}
          y={height - 2}
          textAnchor="middle"
          style={s % 4 === 0 ? { fill: "var(--color-base-content)", fontWeight: 600 } : {}}
        >
          {s + 1}
        </text>
      ))}
      {theirs.map((t) => (
        <circle
          key={t.key}
          cx={x(t.step) + 5}
          cy={y(Math.max(Math.min(t.offset, range), -range))}
          r={3.4}
          fill="none"
          stroke={hue(t.family)}
          strokeWidth={1.1}
          opacity={0.6}
        />
      ))}
      {mine.map((m) => (
        <circle
          key={m.key}
          cx={x(m.step) - 5}
          cy={y(Math.max(Math.min(m.offset, range), -range))}
          r={3.8}
          fill={hue(m.family)}
        />
      ))}
      <text x={4} y={14} style={{ fill: "var(--late)" }}>
        late
      </text>
      <text x={4} y={height - 14} style={{ fill: "var(--early)" }}>
        early
      </text>
    </svg>
  );
}
