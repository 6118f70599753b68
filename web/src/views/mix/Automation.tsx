// Numbers of the chosen effect or row that are drawn over the bars of the loop.
import { useRef } from "react";
import type { Document, Param, Schemas } from "../../api/client";
import { clamp, num } from "../../parts/format";
import { partOf, valueFor } from "../../parts/scale";
import { newGesture, useProject } from "../../state/project";

const width = 236;
const height = 46;

/** Something that may be drawn over the bars. */
export interface Automatable {
  at: string;
  param: Param;
  label: string;
  value: number;
}

export function Automation({ doc, numbers }: { doc: Document; numbers: Automatable[] }) {
  const edit = useProject((s) => s.edit);
  const bars = doc.groove.bars;
  // A point a beat in short loops, else one a bar.
  const every = bars <= 2 ? 1 / doc.groove.meter.beats : bars <= 16 ? 1 : bars / 16;
  const count = Math.round(bars / every);
  const moved = numbers.filter((n) => doc.mix.automation.some((m) => m.at === n.at));
  const rest = numbers.filter((n) => !moved.includes(n));
  return (
    <div className="border-t border-line pt-1">
      <h3 className="text-sm">Automation</h3>
      {moved.map((n) => (
        <DrawnParameter
          key={n.at}
          of={n}
          automation={doc.mix.automation.find((m) => m.at === n.at) as Schemas["Automation"]}
          bars={bars}
          every={every}
          count={count}
        />
      ))}
      {rest.length > 0 && (
        <select
          className="press h-7 w-full px-1.5 text-xs"
          aria-label="Automate a parameter"
          value=""
          onChange={(e) => {
            const n = rest.find((r) => r.at === e.target.value);
            if (n)
              edit([
                {
                  op: "automation.set",
                  at: n.at,
                  points: Array.from({ length: count + 1 }, (_, i) => ({ bar: i * every, value: n.value })),
                },
              ]);
          }}
        >
          <option value="">Automate…</option>
          {rest.map((n) => (
            <option key={n.at} value={n.at}>
              {n.label}
            </option>
          ))}
        </select>
      )}
    </div>
  );
}

function DrawnParameter(p: {
  of: Automatable;
  automation: Schemas["Automation"];
  bars: number;
  every: number;
  count: number;
}) {
  const edit = useProject((s) => s.edit);
  const gesture = useRef("");
  const { param, at } = p.of;
  const x = (bar: number) => (Math.min(bar, p.bars) / p.bars) * width;
  const y = (v: number) => height - 3 - clamp(partOf(param, v), 0, 1) * (height - 6);
  const draw = (e: React.PointerEvent<SVGSVGElement>) => {
    const r = e.currentTarget.getBoundingClientRect();
    const i = clamp(Math.round(((e.clientX - r.left) / r.width) * p.count), 0, p.count);
    const v = valueFor(param, clamp(1 - (e.clientY - r.top - 3) / (height - 6), 0, 1));
    const points = Array.from({ length: p.count + 1 }, (_, k) => {
      const bar = k * p.every;
      const there = p.automation.points.find((q) => Math.abs(q.bar - bar) < 1e-6);
      return { bar, value: k === i ? v : (there?.value ?? between(p.automation.points, bar)) };
    });
    edit([{ op: "automation.set", at, points }], gesture.current);
  };
  return (
    <div>
      <div className="flex text-xs">
        <span className="grow">{p.of.label}</span>
        <span className="num text-2xs text-muted">
          {num(Math.min(...p.automation.points.map((q) => q.value)))} to{" "}
          {num(Math.max(...p.automation.points.map((q) => q.value)))} {param.unit}
        </span>
        <button
          type="button"
          className="ml-2 cursor-pointer text-2xs text-muted underline decoration-dotted"
          aria-label={`${p.of.label} stays where it is set`}
          onClick={() => edit([{ op: "automation.set", at, points: [] }])}
        >
          remove
        </button>
      </div>
      <svg
        width={width}
        height={height}
        role="img"
        aria-label={`Automation of ${p.of.label}`}
        className="block cursor-crosshair touch-none rounded bg-base-100"
        onPointerDown={(e) => {
          gesture.current = newGesture();
          e.currentTarget.setPointerCapture(e.pointerId);
          draw(e);
        }}
        onPointerMove={(e) => e.buttons === 1 && draw(e)}
      >
        {Array.from({ length: p.bars + 1 }, (_, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a bar is its place
          <line key={i} x1={x(i)} x2={x(i)} y1={0} y2={height} stroke="var(--line)" />
        ))}
        <polyline
          fill="none"
          stroke="var(--late)"
          strokeWidth={2}
          points={p.automation.points.map((q) => `${x(q.bar).toFixed(1)},${y(q.value).toFixed(1)}`).join(" ")}
        />
        {p.automation.points.map((q) => (
          <circle key={q.bar} cx={clamp(x(q.bar), 3, width - 3)} cy={y(q.value)} r={3} fill="var(--late)">
            <title>{`bar ${num(q.bar + 1, 2)}: ${num(q.value)} ${param.unit}`}</title>
          </circle>
        ))}
      </svg>
    </div>
  );
}

function between(points: Schemas["AutomationPoint"][], bar: number): number {
  const after = points.findIndex((q) => q.bar >= bar);
  if (after < 0) return points.at(-1)?.value ?? 0;
  const b = points[after];
  const a = points[after - 1];
  if (!a || !b) return b?.value ?? 0;
  return a.value + ((b.value - a.value) * (bar - a.bar)) / (b.bar - a.bar);
}
