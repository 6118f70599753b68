// A chart over the time axis: lines, and handles that edit what they show.
import { useRef } from "react";
import { useDrag } from "../../parts/useDrag";
import { newGesture } from "../../state/project";

export const labelWidth = 108;
export const right = 14;
const axis = 44; // for the labels of ticks

export interface Handle {
  id: string;
  name: string;
  x: number;
  y: number;
  colour?: string;
  /** Bends a way rather than moving a point. */
  small?: boolean;
  /** Called while it is dragged, with its place in the chart. */
  onDrag: (x: number, y: number, gesture: string) => void;
  /** Sets what it was when the drag began. */
  onCancel: (gesture: string) => void;
  onRemove?: () => void;
  /** What a double click does. */
  onTurn?: () => void;
}

export interface Line {
  id: string;
  colour: string;
  points: [number, number][];
  dashed?: boolean;
}

export function Chart(p: {
  title: string;
  sub: React.ReactNode;
  width: number;
  height: number;
  ticks: { y: number; text: string }[];
  lines: Line[];
  handles: Handle[];
  /** A double click on the chart, away from handles. */
  onAdd?: ((x: number, y: number) => void) | undefined;
  /** At its right end, above the lines. */
  corner?: React.ReactNode;
  children?: React.ReactNode;
}) {
  const svg = useRef<SVGSVGElement>(null);
  const inner = p.width - labelWidth - right;
  return (
    <div className="rowbox relative flex" style={{ height: p.height }}>
      <div className="shrink-0 pt-2 pl-3" style={{ width: labelWidth - axis }}>
        <div className="font-semibold">{p.title}</div>
        <div className="text-2xs leading-tight text-muted">{p.sub}</div>
      </div>
      <svg
        ref={svg}
        width={inner + axis + right}
        height={p.height}
        viewBox={`-${axis} 0 ${inner + axis + right} ${p.height}`}
        role={p.handles.length > 0 ? "group" : "img"}
        aria-label={`${p.title} over time`}
        onDoubleClick={(e) => {
          const r = svg.current?.getBoundingClientRect();
          if (r && p.onAdd && (e.target as Element).getAttribute("data-handle") === null)
            p.onAdd(e.clientX - r.left - axis, e.clientY - r.top);
        }}
      >
        {p.ticks.map((t) => (
          <g key={t.text}>
            <line x1={0} x2={inner} y1={t.y} y2={t.y} stroke="var(--line)" />
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
            strokeWidth={l.dashed ? 1.4 : 2.2}
            strokeDasharray={l.dashed ? "4 3" : undefined}
            strokeLinejoin="round"
          />
        ))}
        {p.handles.map((h) => (
          <Diamond key={h.id} handle={h} chart={svg} />
        ))}
      </svg>
      {p.corner && <div className="absolute top-1.5 right-4 flex items-center gap-2 text-xs">{p.corner}</div>}
    </div>
  );
}

function Diamond({ handle: h, chart }: { handle: Handle; chart: React.RefObject<SVGSVGElement | null> }) {
  const drag = useDrag<{ gesture: string; cancel: (gesture: string) => void }>({
    start: () => ({ gesture: newGesture(), cancel: h.onCancel }),
    move: (d, e) => {
      const r = chart.current?.getBoundingClientRect();
      if (r) h.onDrag(e.clientX - r.left - axis, e.clientY - r.top, d.gesture);
    },
    drop: () => undefined,
    cancel: (d) => d.cancel(d.gesture),
  });
  const keys = (e: React.KeyboardEvent) => {
    const far = e.shiftKey ? 1 : 4;
    const by = { ArrowLeft: [-far, 0], ArrowRight: [far, 0], ArrowUp: [0, -far], ArrowDown: [0, far] }[e.key];
    if (by) {
      e.preventDefault();
      e.stopPropagation();
      h.onDrag(h.x + (by[0] ?? 0), h.y + (by[1] ?? 0), newGesture());
    } else if ((e.key === "Delete" || e.key === "Backspace") && h.onRemove) {
      e.preventDefault();
      e.stopPropagation();
      h.onRemove();
    } else if (e.key === "Enter" && h.onTurn) h.onTurn();
  };
  const size = h.small ? 4 : 6;
  const more = h.onRemove
    ? ", arrow keys; Delete takes it away"
    : h.onTurn
      ? "; double click: s-shaped or not"
      : "";
  return (
    // biome-ignore lint/a11y/useSemanticElements: a point of a drawing is no button element
    <rect
      data-handle={h.id}
      role="button"
      tabIndex={0}
      aria-label={h.name}
      x={h.x - size}
      y={h.y - size}
      width={2 * size}
      height={2 * size}
      rx={h.small ? size : 0}
      transform={`rotate(45 ${h.x} ${h.y})`}
      fill={h.small ? (h.colour ?? "var(--muted)") : "var(--color-base-100)"}
      fillOpacity={h.small ? 0.45 : 1}
      stroke={h.colour ?? "var(--color-primary)"}
      strokeWidth={h.small ? 1 : 2}
      className="cursor-grab touch-none"
      {...drag}
      onKeyDown={keys}
      onDoubleClick={(e) => {
        e.stopPropagation();
        h.onTurn?.();
      }}
    >
      <title>{`${h.name}: drag${more}`}</title>
    </rect>
  );
}
