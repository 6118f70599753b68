// Every hit's offset by its step in the bar: late above, early below.
import { memo } from "react";
import { hue } from "./family";

export interface Dot {
  key: string;
  step: number;
  offset: number;
  family: string;
}

const hearing = 6; // ms: Friberg & Sundberg 1995, spacings below 240 ms

export const OffsetPlot = memo(function OffsetPlot(p: {
  filled: Dot[];
  hollow: Dot[];
  steps: number;
  width: number;
  height: number;
}) {
  const { width, height, steps } = p;
  const most = Math.max(20, ...[...p.filled, ...p.hollow].map((d) => Math.abs(d.offset)));
  const range = Math.ceil((Math.min(most, 90) + 4) / 10) * 10;
  const left = 46;
  const x = (step: number) => left + ((step + 0.5) / steps) * (width - left - 12);
  const y = (ms: number) => height / 2 - 8 - (ms / range) * (height / 2 - 18);
  const held = (ms: number) => Math.max(Math.min(ms, range), -range);
  // Families stand side by side; the hollow dots of one right of its filled.
  const families = [...new Set([...p.filled, ...p.hollow].map((d) => d.family))];
  const room = Math.min(((width - left - 12) / steps) * 0.8, 13 * families.length);
  const aside = (family: string) => ((families.indexOf(family) + 0.5) / families.length - 0.5) * room;
  const both = p.filled.length > 0 && p.hollow.length > 0 ? 2.5 : 0;
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
      {[-range, -range / 2, 0, range / 2, range].map((t) => (
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
      {p.hollow.map((d) => (
        <circle
          key={d.key}
          cx={x(d.step) + aside(d.family) + both}
          cy={y(held(d.offset))}
          r={3.4}
          fill="none"
          stroke={hue(d.family)}
          strokeWidth={1.1}
          opacity={0.65}
        />
      ))}
      {p.filled.map((d) => (
        <circle
          key={d.key}
          cx={x(d.step) + aside(d.family) - both}
          cy={y(held(d.offset))}
          r={3.6}
          fill={hue(d.family)}
        />
      ))}
      <text x={left - 6} y={y(range * 0.75) + 4} textAnchor="end" style={{ fill: "var(--late)" }}>
        late
      </text>
      <text x={left - 6} y={y(-range * 0.75) + 4} textAnchor="end" style={{ fill: "var(--early)" }}>
        early
      </text>
    </svg>
  );
});
