import type { Schemas } from "../../api/client";
import { num } from "../../parts/format";
import { useShaping } from "../../state/shaping";
import { type Line, labelWidth } from "./Chart";
import type { Axes } from "./curve";
import type { Curve } from "./parts";

export const floorDB = -60;

export const none: Schemas["Curves"] = { pitch: [], level: [], own: [] };

/** The axes of a curve that drives a number of a chart. */
export function axesOf(
  c: Curve,
  time: Time,
  beat: number,
  y: (v: number) => number,
  value: (y: number) => number,
): Axes {
  const scale = c.unit === "beats" ? beat : 1;
  return { x: (at) => time.x(at * scale), at: (x) => time.ms(x) / scale, y, value };
}

export function Ruler({ time, width, beat }: { time: Time; width: number; beat: number }) {
  const unit = useShaping((s) => s.unit);
  const marks: [number, string][] = [];
  if (unit === "ms") {
    for (let i = 0; i <= 4; i++)
      marks.push([(time.span / 4) * i, `${num((time.span / 4) * i, time.span < 100 ? 1 : 0)} ms`]);
  } else {
    const step = [1 / 16, 1 / 8, 1 / 4, 1 / 2, 1, 2, 4].find((s) => time.span / beat / s <= 9) ?? 8;
    for (let b = 0; b * beat <= time.span; b += step) marks.push([b * beat, fraction(b)]);
  }
  return (
    <svg width={width} height={20} aria-hidden="true">
      {marks.map(([ms, text], i) => (
        <g key={text}>
          <line
            x1={labelWidth + time.x(ms)}
            x2={labelWidth + time.x(ms)}
            y1={14}
            y2={20}
            stroke="var(--line-strong)"
          />
          <text
            x={labelWidth + time.x(ms)}
            y={11}
            textAnchor={i === 0 ? "start" : time.x(ms) > time.inner - 30 ? "end" : "middle"}
          >
            {text}
          </text>
        </g>
      ))}
    </svg>
  );
}

/** Beats as people write them: 3/16, 1 1/2. */
function fraction(beats: number): string {
  const whole = Math.floor(beats);
  const part = beats - whole;
  if (part === 0) return `${whole} ${whole === 1 ? "beat" : "beats"}`;
  let over = 16;
  let up = Math.round(part * 16);
  while (up % 2 === 0) {
    up /= 2;
    over /= 2;
  }
  return `${whole > 0 ? `${whole} ` : ""}${up}/${over}`;
}

export const points = (c: number[][], time: Time, y: (v: number) => number) =>
  c.map((p) => [time.x(p[0] ?? 0), y(p[1] ?? 0)] as [number, number]);

/** What the target does, dashed behind the lines of mine. */
export const outline = (target: number[][], time: Time, y: (v: number) => number): Line[] =>
  target.length > 1
    ? [
        {
          id: "target",
          colour: "var(--ref)",
          dashed: true,
          points: points(
            target.filter((p) => (p[0] ?? 0) <= time.span),
            time,
            y,
          ),
        },
      ]
    : [];

export interface Time {
  /** ms across the chart. */
  span: number;
  inner: number;
  x: (ms: number) => number;
  ms: (x: number) => number;
}

export type Drawn = Schemas["Curves"]["pitch"];

export type Place = { voice: string; layer: string };
