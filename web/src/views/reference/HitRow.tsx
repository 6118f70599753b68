// One family of the reference's hits, as sticks on the measured grid.
import type { Analysis, HeardHit } from "../../api/client";
import { familyName, Glyph, hue } from "../../parts/family";
import { num } from "../../parts/format";
import { Stick, velocityAt } from "../../parts/Stick";
import type { Timeline } from "./timeline";

export const rowHeight = 58;
export const labelWidth = 122;

const sure = 0.7; // confidence below which a hit is drawn faint

export function HitRow(p: {
  analysis: Analysis;
  family: string;
  hits: HeardHit[];
  time: Timeline;
  width: number;
  scale: number;
  selected: string;
  onSelect: (id: string) => void;
  onAdd: (time: number, velocity: number) => void;
  onDrop: (id: string) => void;
}) {
  const { analysis, hits, time } = p;
  const foot = (h: HeardHit) => h.time_s - (h.offset_ms ?? 0) / 1000;
  const visible = hits.filter((h) => h.time_s > time.from - 0.05 && h.time_s < time.to + 0.05);
  const unsure = hits.filter((h) => h.confidence < sure).length;
  const perSecond = time.x(1) - time.x(0);
  const lines = steps(analysis, time);
  const pick = (x: number, y: number) =>
    visible
      .map((h) => ({
        h,
        d: Math.abs(time.x(foot(h)) + ((h.offset_ms ?? 0) / 1000) * perSecond * p.scale - x) + 0 * y,
      }))
      .filter(({ d }) => d < 10)
      .sort((a, b) => a.d - b.d)[0]?.h;
  const keys = (e: React.KeyboardEvent) => {
    const at = hits.findIndex((h) => h.id === p.selected);
    if (e.key === "ArrowRight" || e.key === "ArrowLeft") {
      e.preventDefault();
      const next = hits[Math.min(Math.max(at + (e.key === "ArrowRight" ? 1 : -1), 0), hits.length - 1)];
      if (next) p.onSelect(next.id);
    } else if ((e.key === "x" || e.key === "Delete" || e.key === "Backspace") && at >= 0) {
      e.preventDefault();
      p.onDrop(p.selected);
    }
  };
  return (
    <div className="flex rounded-lg bg-base-200" style={{ height: rowHeight }}>
      <div className="flex shrink-0 items-center gap-2.5 pl-3" style={{ width: labelWidth }}>
        <Glyph family={p.family} />
        <span>
          <span className="block font-semibold">{familyName(p.family)}</span>
          <span className="block text-[11px] text-muted">
            <span className="num">{hits.length}</span> hits{unsure > 0 ? `, ${unsure} unsure` : ", sure"}
          </span>
        </span>
      </div>
      {/* biome-ignore lint/a11y/useSemanticElements: a row of hits on a time axis has no element of its own */}
      <div
        role="group"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: the row takes keys: next, drop
        tabIndex={0}
        aria-label={`${familyName(p.family)}, ${hits.length} hits. Arrow keys go from hit to hit, X drops`}
        data-family={p.family}
        onKeyDown={keys}
      >
        {/* biome-ignore lint/a11y/useKeyWithClickEvents: the row around it takes the keys */}
        <svg
          width={p.width}
          height={rowHeight}
          role="img"
          aria-label={`${visible.length} hits on show`}
          onClick={(e) => {
            const r = e.currentTarget.getBoundingClientRect();
            const hit = pick(e.clientX - r.left, e.clientY - r.top);
            p.onSelect(hit?.id ?? "");
          }}
          onDoubleClick={(e) => {
            const r = e.currentTarget.getBoundingClientRect();
            const x = e.clientX - r.left;
            if (!pick(x, 0)) p.onAdd(time.seconds(x), velocityAt(e.clientY - r.top, rowHeight));
          }}
        >
          <rect width={p.width} height={rowHeight} fill="transparent" />
          {lines.map((l) => (
            <line
              key={l.at}
              x1={time.x(l.at)}
              x2={time.x(l.at)}
              y1={5}
              y2={rowHeight - 5}
              stroke={
                l.rank === 0
                  ? "var(--color-base-content)"
                  : l.rank === 1
                    ? "var(--line-strong)"
                    : "var(--line)"
              }
              opacity={l.rank === 0 ? 0.65 : 1}
            />
          ))}
          {visible.map((h) => (
            <Stick
              key={h.id}
              x={time.x(foot(h))}
              lean={((h.offset_ms ?? 0) / 1000) * perSecond * p.scale}
              velocity={h.velocity}
              height={rowHeight}
              colour={hue(p.family)}
              offset={h.offset_ms ?? 0}
              faint={h.confidence < sure}
              selected={h.id === p.selected}
              title={`${num(h.time_s, 3)} s  ${num(h.offset_ms, 1, true)} ms  velocity ${h.velocity}  confidence ${num(h.confidence, 2)}`}
            />
          ))}
        </svg>
      </div>
    </div>
  );
}

interface GridLine {
  at: number;
  /** 0 bar, 1 beat, 2 sixteenth. */
  rank: number;
}

/** The sixteenths of the measured grid within the stretch on show. */
export function steps(a: Analysis, time: Timeline): GridLine[] {
  const g = a.grid;
  if (!g) return [];
  const out: GridLine[] = [];
  for (let i = 0; i + 1 < g.beats_s.length; i++) {
    const from = g.beats_s[i] ?? 0;
    const to = g.beats_s[i + 1] ?? 0;
    for (let s = 0; s < 4; s++) {
      const at = from + ((to - from) * s) / 4;
      if (at < time.from || at > time.to) continue;
      const bar = (((i - g.downbeat) % g.beats_per_bar) + g.beats_per_bar) % g.beats_per_bar === 0;
      out.push({ at, rank: s > 0 ? 2 : bar ? 0 : 1 });
    }
  }
  return out;
}
