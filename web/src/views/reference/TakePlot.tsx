import { familyName, hue } from "../../parts/family";
import type { Tapped } from "./clock";
import { pads } from "./Pads";

/** A take on its grid, a row for each family. */
export function TakePlot({
  hits,
  tempo,
  bars,
  beats,
}: {
  hits: Tapped[];
  tempo: number;
  bars: number;
  beats: number;
}) {
  const span = (bars * beats * 60) / tempo;
  const played = new Set(hits.map((h) => h.family));
  const known = pads.map(([f]) => f);
  const rows = [...known.filter((f) => played.has(f)), ...[...played].filter((f) => !known.includes(f))];
  return (
    <svg
      width="100%"
      viewBox={`0 0 780 ${rows.length * 24 + 10}`}
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
          y2={rows.length * 24 + 6}
          stroke={i % beats === 0 ? "var(--line-strong)" : "var(--line)"}
        />
      ))}
      {rows.map((f, r) => (
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
  );
}
