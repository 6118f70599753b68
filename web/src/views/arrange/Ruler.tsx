// The bars above the rows: a click puts the cursor there, a drag chooses a stretch, a
// double click plays from there. Markers stand on it.
import { useRef, useState } from "react";
import type { Document } from "../../api/client";
import { useMonitor } from "../../live/monitor";
import { useDrag } from "../../parts/useDrag";
import type { Axis } from "../../time/axis";
import type { Facts } from "../../time/piece";
import type { TimeView } from "../../time/useTimeView";
import { nearest, snapped } from "./layout";
import { playFrom } from "./playFrom";
import { useArrange } from "./store";

const height = 30;

/** Every how many bars a number stands, so that numbers keep apart. */
export function everyBars(pixelsPerBar: number): number {
  for (const n of [1, 2, 4, 8, 16, 32, 64, 128]) if (n * pixelsPerBar >= 34) return n;
  return 256;
}

export function Ruler(p: { doc: Document; facts: Facts; axis: Axis; left: number; time: TimeView }) {
  const { axis, facts } = p;
  const chosen = useArrange();
  const piece = useMonitor((m) => m.piece);
  const loop = useMonitor((m) => m.loop);
  const [drawn, setDrawn] = useState<{ from: number; to: number } | null>(null);
  const el = useRef<HTMLDivElement>(null);
  const tickAt = (e: React.PointerEvent | React.MouseEvent) =>
    axis.at(e.clientX - (el.current?.getBoundingClientRect().left ?? 0));
  const stretch = (a: number, b: number) => ({
    from: snapped(facts, Math.min(a, b), chosen.snap).from,
    to: snapped(facts, Math.max(a, b), chosen.snap).to,
  });
  const drag = useDrag<{ at: number; x: number; moved: boolean }>({
    start: (e) => ({ at: tickAt(e), x: e.clientX, moved: false }),
    move: (d, e) => {
      if (Math.abs(e.clientX - d.x) > 4) d.moved = true;
      if (d.moved) setDrawn(stretch(d.at, tickAt(e)));
    },
    drop: (d, e) => {
      setDrawn(null);
      if (!d.moved) {
        chosen.set({ cursor: nearest(facts, d.at, chosen.snap), range: null });
        return;
      }
      const range = stretch(d.at, tickAt(e));
      chosen.set({ range, cursor: range.from });
    },
    cancel: () => setDrawn(null),
  });
  const bars = facts.bars.slice(0, -1);
  const every = everyBars((axis.width / (axis.to - axis.from)) * 3840);
  const range = drawn ?? chosen.range;
  const band = (s: { from: number; to: number }, colour: string, h: number) => (
    <rect
      x={axis.x(s.from)}
      y={0}
      width={axis.x(s.to) - axis.x(s.from)}
      height={h}
      fill={colour}
      fillOpacity={0.28}
    />
  );
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the cursor is moved by keys everywhere in the view
    <div
      ref={el}
      className="relative cursor-text touch-none"
      style={{ marginLeft: p.left, height }}
      data-testid="ruler"
      onDoubleClick={(e) => playFrom(nearest(facts, tickAt(e), chosen.snap))}
      {...drag}
    >
      <svg width={axis.width} height={height} aria-hidden="true" className="block overflow-hidden">
        {range && band(range, "var(--late)", height)}
        {piece && loop && band(loop, "var(--color-primary)", 6)}
        {bars.map((b, i) => {
          const x = axis.x(b.tick);
          if (x < -20 || x > axis.width + 20 || (i % every !== 0 && every > 8)) return null;
          return (
            <g key={b.tick}>
              <line x1={x} x2={x} y1={i % every === 0 ? 2 : 8} y2={13} stroke="var(--line-strong)" />
              {i % every === 0 && (
                <text x={x + 1} y={25} className="num fill-current text-2xs" fill="var(--muted)">
                  {i + 1}
                </text>
              )}
            </g>
          );
        })}
        <path d={`M${axis.x(chosen.cursor) - 5} 0 h10 l-5 7 z`} fill="var(--color-base-content)" />
      </svg>
      {p.doc.arrangement.markers.map((m) => {
        const span = facts.spans.find((s) => s.section === m.section);
        if (!span) return null;
        const x = axis.x(span.from + m.tick);
        if (x < 0 || x > axis.width) return null;
        return (
          <button
            key={m.id}
            type="button"
            className="absolute top-0 max-w-[90px] cursor-pointer truncate rounded-r border-l-2 border-[var(--ref)] bg-base-100/80 px-1 text-2xs leading-tight"
            style={{ left: x }}
            title={`${m.name}: the cursor goes there`}
            onPointerDown={(e) => e.stopPropagation()}
            onClick={() => chosen.set({ cursor: span.from + m.tick, range: null, panel: "whole" })}
          >
            {m.name}
          </button>
        );
      })}
    </div>
  );
}
