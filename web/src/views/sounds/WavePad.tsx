// One period of the body's wave, drawn with the pointer.
import { useEffect, useRef, useState } from "react";
import { clamp } from "../../parts/format";
import { useDrag } from "../../parts/useDrag";
import { newGesture, useProject } from "../../state/project";
import type { Place } from "./MovedField";

const count = 64;
const width = 244;
const height = 84;

const shapes: [string, (u: number) => number][] = [
  ["sine", (u) => Math.sin(2 * Math.PI * u)],
  ["triangle", (u) => 1 - 4 * Math.abs(((u + 0.75) % 1) - 0.5)],
  ["saw", (u) => 1 - 2 * u],
  ["square", (u) => (u < 0.5 ? 1 : -1)],
];

export function WavePad({ place, cycle }: { place: Place; cycle: number[] }) {
  const edit = useProject((p) => p.edit);
  const svg = useRef<SVGSVGElement>(null);
  const [local, setLocal] = useState<number[] | null>(null);
  useEffect(() => setLocal(null), []);
  const sine = shapes[0]?.[1] ?? (() => 0);
  const kept = Array.from({ length: count }, (_, i) =>
    cycle.length > 1 ? (cycle[Math.floor((i / count) * cycle.length)] ?? 0) : sine(i / count),
  );
  const shown = local ?? kept;
  const send = (values: number[], gesture: string) =>
    edit([{ op: "wave.draw", ...place, cycle: values }], gesture);
  const drag = useDrag<{ values: number[]; was: number[]; last: number; gesture: string }>({
    start: () => ({ values: [...kept], was: kept, last: -1, gesture: newGesture() }),
    move: (d, e) => {
      const r = svg.current?.getBoundingClientRect();
      if (!r) return;
      const i = clamp(Math.floor(((e.clientX - r.left) / r.width) * count), 0, count - 1);
      const v = clamp(1 - (2 * (e.clientY - r.top)) / r.height, -1, 1);
      const from = d.last < 0 ? i : d.last;
      const start = d.values[from] ?? v;
      const steps = Math.abs(i - from);
      for (let k = 0; k <= steps; k++)
        d.values[from + Math.sign(i - from) * k] = steps === 0 ? v : start + ((v - start) * k) / steps;
      d.last = i;
      setLocal([...d.values]);
      send([...d.values], d.gesture);
    },
    drop: () => setLocal(null),
    cancel: (d) => {
      setLocal(null);
      send(d.was, d.gesture);
    },
  });
  const y = (v: number) => height / 2 - v * (height / 2 - 3);
  return (
    <div className="py-1">
      <svg
        ref={svg}
        viewBox={`0 0 ${width} ${height}`}
        className="w-full cursor-crosshair touch-none rounded border border-line bg-base-100"
        role="img"
        aria-label="One period of the wave: draw it"
        {...drag}
      >
        <line x1={0} x2={width} y1={height / 2} y2={height / 2} stroke="var(--line)" />
        <polyline
          points={shown.map((v, i) => `${((i + 0.5) / count) * width},${y(v).toFixed(1)}`).join(" ")}
          fill="none"
          stroke="var(--kick)"
          strokeWidth={2}
        />
      </svg>
      <div className="mt-1 flex gap-1">
        {shapes.map(([name, f]) => (
          <button
            key={name}
            type="button"
            className="press h-6 px-2 text-2xs"
            title={`Begin with a ${name}`}
            onClick={() =>
              send(
                Array.from({ length: count }, (_, i) => f((i + 0.5) / count)),
                "",
              )
            }
          >
            {name}
          </button>
        ))}
      </div>
    </div>
  );
}
