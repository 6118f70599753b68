// The small plots of the feel: a table by step of the bar, a curve over bars.
import { useCallback, useRef, useState } from "react";
import { clamp, num } from "../../parts/format";
import { newGesture, useProject } from "../../state/project";

/** What is drawn, at once and until the answers have come: the next stroke builds on it. */
function useDraft(kept: number[]): [number[], (drawn: number[]) => void] {
  const [drawn, setDrawn] = useState<number[] | null>(null);
  const latest = useRef<number[] | null>(null);
  const hold = useCallback((next: number[]) => {
    latest.current = next;
    setDrawn(next);
    void useProject
      .getState()
      .answered()
      .then(() => latest.current === next && setDrawn(null));
  }, []);
  return [drawn ?? kept, hold];
}

/** A table by step of the bar as bars: drag one up or down; double click clears it. */
export function Steps(p: {
  label: string;
  values: number[];
  steps: number;
  rest: number;
  most: number;
  unit: string;
  onChange: (values: number[], gesture: string) => void;
}) {
  const gesture = useRef("");
  const [values, hold] = useDraft(p.values);
  const at = (i: number) => values[i % Math.max(values.length, 1)] ?? p.rest;
  const set = (next: number[]) => {
    p.onChange(next, gesture.current);
    hold(next);
  };
  const draw = (e: React.PointerEvent<SVGSVGElement>) => {
    const r = e.currentTarget.getBoundingClientRect();
    const i = clamp(Math.floor(((e.clientX - r.left) / r.width) * p.steps), 0, p.steps - 1);
    const part = 1 - (e.clientY - r.top) / r.height; // 0 to 1
    const value = p.rest === 0 ? (part * 2 - 1) * p.most : part * p.most;
    const next = Array.from({ length: p.steps }, (_, k) => at(k));
    next[i] = Math.round(value * 20) / 20;
    set(next);
  };
  const zero = p.rest === 0 ? 22 : 44 - (p.rest / p.most) * 44;
  return (
    <svg
      role="img"
      aria-label={p.label}
      className="block w-full cursor-crosshair touch-none rounded bg-base-100"
      height={44}
      viewBox={`0 0 ${p.steps * 10} 44`}
      preserveAspectRatio="none"
      onPointerDown={(e) => {
        gesture.current = newGesture();
        e.currentTarget.setPointerCapture(e.pointerId);
        draw(e);
      }}
      onPointerMove={(e) => e.buttons === 1 && draw(e)}
      onDoubleClick={() => {
        gesture.current = "";
        set([]);
      }}
    >
      <line x1={0} x2={p.steps * 10} y1={zero} y2={zero} stroke="var(--line-strong)" />
      {Array.from({ length: p.steps }, (_, i) => {
        const y = p.rest === 0 ? 22 - (at(i) / p.most) * 22 : 44 - (at(i) / p.most) * 44;
        return (
          <rect
            // biome-ignore lint/suspicious/noArrayIndexKey: a step is its place
            key={i}
            x={i * 10 + 1.5}
            width={7}
            y={Math.min(y, zero)}
            height={Math.max(Math.abs(y - zero), 0.6)}
            fill={at(i) > p.rest ? "var(--late)" : "var(--early)"}
          >
            <title>{`step ${i + 1}: ${num(at(i), p.rest === 0 ? 1 : 2, p.rest === 0)} ${p.unit}`}</title>
          </rect>
        );
      })}
    </svg>
  );
}

/** Values at the starts of bars, as a line whose points are dragged. */
export function OverBars(p: {
  label: string;
  curve: number[];
  bars: number;
  most: number;
  unit: string;
  onChange: (curve: number[], gesture: string) => void;
}) {
  const gesture = useRef("");
  const [drawn, hold] = useDraft(p.curve);
  const n = Math.max(drawn.length, p.bars, 2);
  const curve = Array.from({ length: n }, (_, i) => drawn[i % Math.max(drawn.length, 1)] ?? 0);
  const set = (next: number[]) => {
    p.onChange(next, gesture.current);
    hold(next);
  };
  const y = (v: number) => 26 - (v / p.most) * 22;
  const draw = (e: React.PointerEvent<SVGSVGElement>) => {
    const r = e.currentTarget.getBoundingClientRect();
    const i = clamp(Math.round(((e.clientX - r.left) / r.width) * n - 0.5), 0, n - 1);
    const value = clamp((26 - ((e.clientY - r.top) / r.height) * 52) / 22, -1, 1) * p.most;
    const next = [...curve];
    next[i] = Math.round(value * 2) / 2;
    set(next);
  };
  const x = (i: number) => ((i + 0.5) / n) * 236;
  return (
    <svg
      role="img"
      aria-label={p.label}
      className="block w-full cursor-crosshair touch-none rounded bg-base-100"
      height={52}
      viewBox="0 0 236 52"
      preserveAspectRatio="none"
      onPointerDown={(e) => {
        gesture.current = newGesture();
        e.currentTarget.setPointerCapture(e.pointerId);
        draw(e);
      }}
      onPointerMove={(e) => e.buttons === 1 && draw(e)}
      onDoubleClick={() => {
        gesture.current = "";
        set([]);
      }}
    >
      <line x1={0} x2={236} y1={26} y2={26} stroke="var(--line-strong)" />
      <polyline
        fill="none"
        stroke="var(--late)"
        strokeWidth={2}
        points={curve.map((v, i) => `${x(i)},${y(v)}`).join(" ")}
      />
      {curve.map((v, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a bar is its place
        <circle key={i} cx={x(i)} cy={y(v)} r={4} fill="var(--late)">
          <title>{`bar ${i + 1}: ${num(v, 1, true)} ${p.unit}`}</title>
        </circle>
      ))}
    </svg>
  );
}
