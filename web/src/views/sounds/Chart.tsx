// A chart over the ruler in ms: curves, and handles that edit the recipe.
import { useRef } from "react";
import { useDrag } from "../../parts/useDrag";
import { newGesture } from "../../state/project";

export const labelWidth = 108;
export const right = 14;

export interface Handle {
  id: string;
  name: string;
  x: number;
  y: number;
  /** Called while it is dragged, with the pointer's place in the chart. */
  onDrag: (x: number, y: number, gesture: string) => void;
  /** Sets what it was when the drag began. */
  onCancel: (gesture: string) => void;
}

export function Chart(p: {
  title: string;
  sub: string;
  width: number;
  height: number;
  ticks: { y: number; text: string }[];
  lines: { id: string; colour: string; points: [number, number][]; dashed?: boolean }[];
  handles: Handle[];
  children?: React.ReactNode;
}) {
  const svg = useRef<SVGSVGElement>(null);
  return (
    <div className="rowbox flex" style={{ height: p.height }}>
      <div className="shrink-0 pt-2 pl-3" style={{ width: labelWidth - 44 }}>
        <div className="font-semibold">{p.title}</div>
        <div className="text-[11px] leading-tight text-muted">{p.sub}</div>
      </div>
      <svg
        ref={svg}
        width={p.width - labelWidth + 44}
        height={p.height}
        viewBox={`-44 0 ${p.width - labelWidth + 44} ${p.height}`}
        role="img"
        aria-label={`${p.title} over time`}
      >
        {p.ticks.map((t) => (
          <g key={t.text}>
            <line x1={0} x2={p.width - labelWidth - right} y1={t.y} y2={t.y} stroke="var(--line)" />
            <text x={-10} y={t.y + 4} textAnchor="end">
              {t.text}
            </text>
          </g>
        ))}
        {p.children}
        {p.lines.map((l) => (
          <polyline
            key={l.id}
            points={l.points.map(([x, y]) => `${x.toFixed(1)},${y.toFixed(1)}`).join(" ")}
            fill="none"
            stroke={l.colour}
            strokeWidth={2.2}
            strokeDasharray={l.dashed ? "4 3" : undefined}
            strokeLinejoin="round"
          />
        ))}
        {p.handles.map((h) => (
          <Diamond key={h.id} handle={h} chart={svg} />
        ))}
      </svg>
    </div>
  );
}

function Diamond({ handle: h, chart }: { handle: Handle; chart: React.RefObject<SVGSVGElement | null> }) {
  const drag = useDrag<{ gesture: string; cancel: (gesture: string) => void }>({
    start: () => ({ gesture: newGesture(), cancel: h.onCancel }),
    move: (d, e) => {
      const r = chart.current?.getBoundingClientRect();
      if (r) h.onDrag(e.clientX - r.left - 44, e.clientY - r.top, d.gesture);
    },
    drop: () => undefined,
    cancel: (d) => d.cancel(d.gesture),
  });
  return (
    <rect
      data-handle={h.id}
      x={h.x - 6}
      y={h.y - 6}
      width={12}
      height={12}
      transform={`rotate(45 ${h.x} ${h.y})`}
      fill="var(--color-base-100)"
      stroke="var(--color-primary)"
      strokeWidth={2}
      className="cursor-grab touch-none"
      {...drag}
    >
      <title>{`${h.name}: drag`}</title>
    </rect>
  );
}
