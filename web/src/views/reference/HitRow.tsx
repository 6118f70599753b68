// One family of the reference's hits, as sticks on the measured grid.
import { memo, useCallback, useMemo, useRef, useState } from "react";
import type { Analysis, HeardHit, Schemas } from "../../api/client";
import { rowKeys } from "../../keys/useKeys";
import { Canvas } from "../../parts/Canvas";
import { familyName, Glyph, hue } from "../../parts/family";
import { clamp, num } from "../../parts/format";
import { closest, headY, paintDense, paintGrid, paintStick, velocityAt } from "../../parts/sticks";
import { useDrag } from "../../parts/useDrag";
import { useSettled } from "../../state/queries";
import { type Axis, firstAt } from "../../time/axis";

export const rowHeight = 58;
export const labelWidth = 136;

/** Where a hit stands on the straight grid, seconds. */
const foot = (h: HeardHit) => h.time_s - (h.offset_ms ?? 0) / 1000;

/** A hit on its way: which, from where, and whether it moves in time or in strength. */
interface Drag {
  hit: HeardHit;
  x: number;
  y: number;
  way: "none" | "time" | "velocity";
  time: number;
  velocity: number;
}

const sure = 0.8; // confidence below which a hit is drawn faint

export function HitRow(p: {
  analysis: Analysis;
  family: string;
  hits: HeardHit[];
  time: Axis;
  width: number;
  scale: number;
  selected: string;
  onSelect: (id: string) => void;
  onAdd: (time: number, velocity: number) => void;
  onDrop: (id: string) => void;
  onMove: (id: string, time: number) => void;
  onWeigh: (id: string, velocity: number) => void;
}) {
  const [drag, setDrag] = useState<Drag | null>(null);
  // What keys have just set, so that a quick second press goes on from the
  // first although the hits have not been measured anew yet.
  const keyed = useRef({ hit: "", at: 0, time: 0, velocity: 0 });
  const latest = (h: HeardHit) => {
    const now = performance.now();
    if (keyed.current.hit !== h.id || now - keyed.current.at > 1500)
      keyed.current = { hit: h.id, at: now, time: h.time_s, velocity: h.velocity };
    keyed.current.at = now;
    return keyed.current;
  };
  const { analysis, hits, time } = p;
  const visible = useMemo(() => {
    const from = firstAt(hits, (h) => h.time_s, time.from - 0.05);
    const to = firstAt(hits, (h) => h.time_s, time.to + 0.05);
    return hits.slice(from, to);
  }, [hits, time]);
  const unsure = hits.filter((h) => h.confidence < sure).length;
  const covered = hits.filter((h) => h.covered).length;
  const perSecond = time.per;
  const lines = useMemo(() => {
    const beat = analysis.tempo_bpm ? (60 / analysis.tempo_bpm) * time.per : 40;
    const finest = beat / analysis.steps_per_beat >= 7 ? 2 : beat >= 7 ? 1 : 0;
    return steps(analysis, time).filter((l) => l.rank <= finest);
  }, [analysis, time]);
  const rolls = analysis.rolls.filter((r) => r.family === p.family);
  // Their note values stand above the sticks.
  const above = rolls.length > 0 ? 11 : 0;
  const height = rowHeight + above;
  const pick = (x: number) =>
    visible
      .map((h) => ({
        h,
        d: Math.abs(time.x(foot(h)) + ((h.offset_ms ?? 0) / 1000) * perSecond * p.scale - x),
      }))
      .filter(({ d }) => d < 10)
      .sort((a, b) => a.d - b.d)[0]?.h;
  const dragging = useDrag<Drag>({
    start: (e) => {
      const r = e.currentTarget.getBoundingClientRect();
      const hit = pick(e.clientX - r.left);
      p.onSelect(hit?.id ?? "");
      return hit
        ? { hit, x: e.clientX, y: e.clientY, way: "none", time: hit.time_s, velocity: hit.velocity }
        : null;
    },
    move: (d, e) => {
      const dx = e.clientX - d.x;
      const dy = e.clientY - d.y;
      if (d.way === "none" && Math.hypot(dx, dy) > 4)
        d.way = Math.abs(dy) > Math.abs(dx) ? "velocity" : "time";
      if (d.way === "time") d.time = Math.max(d.hit.time_s + dx / perSecond, 0);
      if (d.way === "velocity") {
        const per = 127 / (rowHeight - 14);
        d.velocity = clamp(Math.round(d.hit.velocity - dy * per), 1, 127);
      }
      setDrag({ ...d });
    },
    drop: (d) => {
      if (d.way === "time") p.onMove(d.hit.id, d.time);
      if (d.way === "velocity") p.onWeigh(d.hit.id, d.velocity);
      setDrag(null);
    },
    cancel: () => setDrag(null),
  });
  const at = hits.findIndex((h) => h.id === p.selected);
  const chosen = hits[at];
  const keys = rowKeys("reference", {
    hits: (e) => {
      const next = hits[clamp(at + (e.key === "ArrowRight" ? 1 : -1), 0, hits.length - 1)];
      if (next) p.onSelect(next.id);
    },
    ends: (e) => {
      const end = hits.at(e.key === "Home" ? 0 : -1);
      if (end) p.onSelect(end.id);
    },
    weigh: (e) => {
      if (!chosen) return;
      const now = latest(chosen);
      now.velocity = clamp(now.velocity + (e.key === "ArrowUp" ? 1 : -1) * (e.shiftKey ? 1 : 5), 1, 127);
      p.onWeigh(p.selected, now.velocity);
    },
    move: (e) => {
      if (!chosen) return;
      const now = latest(chosen);
      now.time = Math.max(now.time + (e.key === "ArrowRight" ? 0.001 : -0.001) * (e.shiftKey ? 0.2 : 1), 0);
      p.onMove(p.selected, now.time);
    },
    drop: () => chosen && p.onDrop(p.selected),
  });
  const paint = useCallback(
    (pen: CanvasRenderingContext2D) => {
      paintGrid(
        pen,
        lines.map((l) => ({ x: time.x(l.at), rank: l.rank })),
        height,
      );
      pen.translate(0, above);
      const sticks = visible.map((h) => {
        const moved = drag?.hit.id === h.id ? drag : null;
        const offset = (h.offset_ms ?? 0) + (moved ? (moved.time - h.time_s) * 1000 : 0);
        return {
          x: time.x(foot(h)),
          lean: (offset / 1000) * time.per * p.scale,
          velocity: moved?.velocity ?? h.velocity,
          colour: hue(p.family),
          offset,
          faint: h.confidence < sure,
          covered: h.covered,
          small: h.grace,
          selected: h.id === p.selected,
        };
      });
      if (sticks.length > time.width / closest) paintDense(pen, sticks, hue(p.family), rowHeight);
      else for (const s of sticks) paintStick(pen, s, rowHeight);
      pen.translate(0, -above);
    },
    [lines, visible, drag, time, height, above, p.scale, p.family, p.selected],
  );
  const [under, setUnder] = useState("");
  return (
    <div className="flex rounded-lg bg-base-200" style={{ height }}>
      <div className="flex shrink-0 items-center gap-2.5 pl-3" style={{ width: labelWidth }}>
        <Glyph family={p.family} />
        <span>
          <span className="block font-semibold leading-5">{familyName(p.family)}</span>
          <span className="block whitespace-nowrap text-2xs leading-tight text-muted">
            <span className="num">{hits.length}</span> {hits.length === 1 ? "hit" : "hits"},{" "}
            {unsure === 0 ? (
              "sure"
            ) : (
              <>
                <span className="num">{unsure}</span> unsure
              </>
            )}
            {covered > 0 && (
              <span
                className="block"
                title="Dashed: masked by other drums. Shown at the usual offset and left out of the timing figures."
              >
                <span className="num">{covered}</span> covered
              </span>
            )}
          </span>
        </span>
      </div>
      {/* biome-ignore lint/a11y/useSemanticElements: a row of hits on a time axis has no element of its own */}
      <div
        role="group"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: the row takes keys: next, drop
        tabIndex={0}
        className="relative focus-visible:-outline-offset-2"
        aria-label={`${familyName(p.family)}, ${hits.length} hits. Left and right go from hit to hit, up and down change velocity, Alt moves by 1 ms, X removes`}
        data-family={p.family}
        onKeyDown={keys}
      >
        <Canvas
          width={p.width}
          height={height}
          paint={paint}
          className="touch-none"
          title={under}
          {...dragging}
          onPointerMove={(e) => {
            dragging.onPointerMove(e);
            if (e.buttons !== 0) return;
            const hit = pick(e.clientX - e.currentTarget.getBoundingClientRect().left);
            setUnder(hit ? inWords(hit) : "");
          }}
          onDoubleClick={(e) => {
            const r = e.currentTarget.getBoundingClientRect();
            const x = e.clientX - r.left;
            if (!pick(x)) p.onAdd(time.at(x), velocityAt(e.clientY - r.top - above, rowHeight));
          }}
        />
        <svg
          width={p.width}
          height={height}
          className="pointer-events-none absolute inset-0"
          aria-hidden="true"
        >
          {analysis.left_out.map((r) => (
            <rect
              key={r.from_s}
              x={time.x(r.from_s)}
              width={Math.max(time.x(r.to_s) - time.x(r.from_s), 0)}
              height={height}
              fill="url(#left-out)"
            />
          ))}
          {rolls
            .filter((r) => r.to_s > time.from && r.from_s < time.to)
            .map((r) => (
              <RollMark
                key={r.from_s}
                from={time.x(Math.max(r.from_s, time.from))}
                to={time.x(Math.min(r.to_s, time.to))}
                width={p.width}
                roll={r}
              />
            ))}
        </svg>
        <HitList visible={visible} time={time} scale={p.scale} above={above} selected={p.selected} />
      </div>
    </div>
  );
}

const inWords = (h: HeardHit) =>
  `${num(h.time_s, 3)} s  ${num(h.offset_ms, 1, true)} ms  velocity ${h.velocity}  confidence ${num(h.confidence, 2)}${h.grace ? "  grace note: does not count for the feel" : ""}${h.covered ? "  onset hidden by other sound: placed where its family lies" : ""}`;

/** The hits on show as a list, for who cannot see the canvas; each stands where its head is. */
const HitList = memo(function HitList(p: {
  visible: HeardHit[];
  time: Axis;
  scale: number;
  above: number;
  selected: string;
}) {
  const now = useMemo(() => ({ visible: p.visible, time: p.time }), [p.visible, p.time]);
  const { visible, time } = useSettled(now, 150); // the wheel is not held up by it
  return (
    <ul className="pointer-events-none absolute inset-0 opacity-0" aria-label="Hits on show">
      {visible.slice(0, most).map((h) => (
        <li
          key={h.id}
          data-hit={h.id}
          className="absolute h-[10px] w-[10px] overflow-hidden whitespace-nowrap"
          style={{
            left: time.x(foot(h)) + ((h.offset_ms ?? 0) / 1000) * time.per * p.scale - 5,
            top: headY(h.velocity, rowHeight) + p.above - 5,
          }}
        >
          {inWords(h)}
          {h.id === p.selected && ", selected"}
        </li>
      ))}
    </ul>
  );
});

/** The most hits that are listed; of more the canvas reports only their number. */
const most = 300;

/** Note values of rolls by strokes to a quarter. */
const rollValues: Record<number, string> = { 6: "1/16T", 8: "1/32", 12: "1/32T", 16: "1/64" };

/** A bracket over the strokes of a roll, with their note value. */
function RollMark(p: { from: number; to: number; width: number; roll: Schemas["Roll"] }) {
  const name = rollValues[p.roll.per_quarter] ?? `${p.roll.per_quarter} to a quarter`;
  return (
    <g data-roll={p.roll.per_quarter}>
      <title>{`Roll of ${p.roll.hits.length}, ${name}, velocity ${num(p.roll.rise, 0, true)} over it. Strokes between steps do not count for the feel.`}</title>
      <path d={`M${p.from} 16 V13 H${p.to} V16`} fill="none" stroke="var(--muted)" strokeWidth="1.2" />
      <text x={clamp((p.from + p.to) / 2, 20, p.width - 20)} y={10} textAnchor="middle">
        {name}
      </text>
    </g>
  );
}

interface GridLine {
  at: number;
  /** 0 bar, 1 beat, 2 step. */
  rank: number;
  /** The beat that it begins or follows. */
  beat: number;
}

/** The steps of the measured grid within the stretch on show. */
export function steps(a: Analysis, time: { from: number; to: number }): GridLine[] {
  const g = a.grid;
  if (!g) return [];
  const out: GridLine[] = [];
  const last = g.beats_s.length - 1;
  for (let i = 0; i <= last; i++) {
    const from = g.beats_s[i] ?? 0;
    const to = g.beats_s[i + 1] ?? from;
    for (let s = 0; s < (i < last ? a.steps_per_beat : 1); s++) {
      const at = from + ((to - from) * s) / a.steps_per_beat;
      if (at < time.from || at > time.to) continue;
      const bar = (((i - g.downbeat) % g.beats_per_bar) + g.beats_per_bar) % g.beats_per_bar === 0;
      out.push({ at, rank: s > 0 ? 2 : bar ? 0 : 1, beat: i });
    }
  }
  return out;
}
