// A number that moves, as a curve under its row: a click adds a point, a drag moves one,
// Delete or a double click takes it away. Each section has its own; where it draws none,
// the number is as it is set.
import { X } from "lucide-react";
import { useRef, useState } from "react";
import type { Document, Schemas } from "../../api/client";
import { clamp, num } from "../../parts/format";
import { partOf, valueFor } from "../../parts/scale";
import { useDrag } from "../../parts/useDrag";
import { newGesture, useProject } from "../../state/project";
import type { Axis } from "../../time/axis";
import { grooveOf, type Laid, type Lane, sectionBar } from "./layout";
import { useArrange } from "./store";

type Point = Schemas["AutomationPoint"];

const height = 30;

/** Points with another one, which takes the place of one at the same bar. */
export const withPoint = (points: readonly Point[], p: Point): Point[] =>
  [...points.filter((q) => Math.abs(q.bar - p.bar) > 1e-6), p].sort((a, b) => a.bar - b.bar);

/** The points of a loop of some bars, round and round over more bars. */
export function roundsOf(points: readonly Point[], loop: number, bars: number): Point[] {
  const out: Point[] = [];
  const first = points[0]?.value ?? 0;
  const inside = points.filter((q) => q.bar < loop);
  for (let base = 0; base < bars; base += loop) {
    const all = [{ bar: 0, value: first }, ...inside, { bar: loop, value: points.at(-1)?.value ?? 0 }];
    for (const q of all) if (base + q.bar <= bars) out.push({ bar: base + q.bar, value: q.value });
  }
  return out;
}

interface Drag {
  of: Laid;
  rest: Point[];
  gesture: string;
}

export function DrawnLane(p: { doc: Document; lane: Lane; list: Laid[]; axis: Axis; left: number }) {
  const { axis, lane, list } = p;
  const edit = useProject((s) => s.edit);
  const chosen = useArrange();
  const [held, setHeld] = useState<{ section: string; points: Point[] } | null>(null);
  const [picked, setPicked] = useState<{ section: string; bar: number } | null>(null);
  const el = useRef<SVGSVGElement>(null);
  const param = lane.number?.param;
  const drag = useDrag<Drag>({
    start: (e) => {
      const at = axis.at(e.clientX - (el.current?.getBoundingClientRect().left ?? 0));
      const of = list.find((l) => at >= l.span.from && at < l.span.to);
      if (!of || !param) return null;
      const points = of.section.automation.find((m) => m.at === lane.at)?.points ?? [];
      const near = points.find((q) => Math.abs(xOf(of, q.bar) - axis.x(at)) < 7);
      const bar = near?.bar ?? null;
      const d = { of, rest: points.filter((q) => q.bar !== bar), gesture: newGesture() };
      place(d, e, false);
      return d;
    },
    move: (d, e) => place(d, e, true),
    drop: (d, e) => {
      const points = place(d, e, true);
      setHeld(null);
      if (points) edit([{ op: "piece.automate", section: d.of.section.id, at: lane.at, points }], d.gesture);
    },
    cancel: () => setHeld(null),
  });
  if (!param) return null;
  const xOf = (of: Laid, bar: number) => axis.x(of.span.from + bar * sectionBar(of.span));
  const yOf = (v: number) => height - 3 - clamp(partOf(param, v), 0, 1) * (height - 6);
  /** The points with the one that is dragged where the pointer is. */
  function place(d: Drag, e: React.PointerEvent, show: boolean): Point[] | null {
    const r = el.current?.getBoundingClientRect();
    if (!r || !param) return null;
    const ticks = axis.at(e.clientX - r.left) - d.of.span.from;
    const bar = sectionBar(d.of.span);
    const step = e.shiftKey ? 1 : chosen.snap === "bar" ? bar / 4 : chosen.snap === "beat" ? 960 : 240;
    const at = clamp(Math.round(ticks / step) * step, 0, d.of.span.to - d.of.span.from) / bar;
    const v = valueFor(param, clamp(1 - (e.clientY - r.top - 3) / (height - 6), 0, 1));
    const points = withPoint(d.rest, { bar: at, value: v });
    setPicked({ section: d.of.section.id, bar: at });
    if (show || d.rest.length === 0) setHeld({ section: d.of.section.id, points });
    return points;
  }
  const removeAt = (section: string, bar: number) => {
    const of = list.find((l) => l.section.id === section);
    const points = of?.section.automation.find((m) => m.at === lane.at)?.points ?? [];
    edit([
      {
        op: "piece.automate",
        section,
        at: lane.at,
        points: points.filter((q) => Math.abs(q.bar - bar) > 1e-6),
      },
    ]);
    setPicked(null);
  };
  const remove = () => {
    edit(
      p.doc.arrangement.sections
        .filter((s) => s.automation.some((m) => m.at === lane.at))
        .map((s) => ({ op: "piece.automate" as const, section: s.id, at: lane.at, points: [] })),
    );
    chosen.set({ lanes: chosen.lanes.filter((a) => a !== lane.at) });
  };
  const base = lane.number?.value ?? 0;
  const loop = p.doc.mix.automation.find((m) => m.at === lane.at);
  const title = `${lane.number?.of}: ${param.label.toLowerCase()}`;
  return (
    <div className="flex border-t border-line/60" data-lane={lane.at}>
      <div
        className="flex shrink-0 items-start gap-1 overflow-hidden pt-1 pl-2.5 text-2xs leading-tight"
        style={{ width: p.left }}
      >
        <span className="line-clamp-2 grow" style={{ color: "var(--late)" }} title={title}>
          {lane.row ? param.label.toLowerCase() : title}
        </span>
        <button
          type="button"
          className="cursor-pointer p-0.5 text-muted"
          aria-label={`${title}: no longer drawn`}
          title="No longer drawn"
          onClick={remove}
        >
          <X size={11} />
        </button>
      </div>
      <svg
        ref={el}
        width={axis.width}
        height={height}
        className="block cursor-crosshair touch-none overflow-hidden"
        aria-label={`${title}, drawn over the piece`}
        data-testid={`lane-${lane.at}`}
        onDoubleClick={() => picked && removeAt(picked.section, picked.bar)}
        {...drag}
      >
        {list.map((l) => {
          const own =
            held?.section === l.section.id
              ? held.points
              : l.section.automation.find((m) => m.at === lane.at)?.points;
          const x0 = axis.x(l.span.from);
          const x1 = axis.x(l.span.to);
          if (x1 < 0 || x0 > axis.width) return null;
          if (!own || own.length === 0) {
            // What is drawn over the loop goes round with the section's groove.
            const round = grooveOf(p.doc, l.section.variation)?.bars ?? 1;
            const path = loop
              ? roundsOf(loop.points, round, l.section.bars).map(
                  (q) => `${xOf(l, q.bar).toFixed(1)},${yOf(q.value).toFixed(1)}`,
                )
              : [`${x0},${yOf(base)}`, `${x1},${yOf(base)}`];
            return (
              <polyline
                key={l.section.id}
                data-base=""
                points={path.join(" ")}
                fill="none"
                stroke="var(--late)"
                strokeOpacity={0.55}
                strokeDasharray={loop ? "4 3" : undefined}
              />
            );
          }
          const first = own[0] as Point;
          const last = own.at(-1) as Point;
          const path = [
            `${x0},${yOf(first.value)}`,
            ...own.map((q) => `${xOf(l, q.bar).toFixed(1)},${yOf(q.value).toFixed(1)}`),
            `${x1},${yOf(last.value)}`,
          ];
          return (
            <g key={l.section.id}>
              <polygon
                points={`${x0},${height} ${path.join(" ")} ${x1},${height}`}
                fill="var(--late)"
                fillOpacity={0.1}
              />
              <polyline points={path.join(" ")} fill="none" stroke="var(--late)" strokeWidth={2} />
              {own.map((q) => (
                <circle
                  key={q.bar}
                  cx={xOf(l, q.bar)}
                  cy={yOf(q.value)}
                  r={picked?.section === l.section.id && Math.abs(picked.bar - q.bar) < 1e-6 ? 4.5 : 3}
                  fill="var(--late)"
                >
                  <title>{`${num(q.value)} ${param.unit}`}</title>
                </circle>
              ))}
              {x1 - x0 > 120 && own.length > 1 && (
                <text
                  x={(x0 + x1) / 2}
                  y={(yOf(first.value) + yOf(last.value)) / 2 < height / 2 ? height - 4 : 11}
                  textAnchor="middle"
                  className="num pointer-events-none text-2xs"
                  fill="var(--muted)"
                >
                  {num(first.value)} → {num(last.value)} {param.unit}
                </text>
              )}
            </g>
          );
        })}
      </svg>
    </div>
  );
}
