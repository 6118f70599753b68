// The groove in small, its ruler and the box that selects.
import { memo } from "react";
import type { Hit, State } from "../../api/client";
import { hue } from "../../parts/family";
import { type Axis, type Differs, labelWidth } from "./layout";
import type { Box } from "./select";

/** Always the same, so that a row without is not drawn again. */
export const nothing: never[] = [];

export const noDifference = new Map<string, Differs>();

/** The box that is being drawn, over the rows. */
export function BoxOver({ box }: { box: Box }) {
  return (
    <div
      aria-hidden="true"
      className="pointer-events-none fixed z-20 rounded border border-ref bg-ref/15"
      style={{ left: box.left, top: box.top, width: box.right - box.left, height: box.bottom - box.top }}
    />
  );
}

/** Bars and beats over the rows. */
export const Ruler = memo(function Ruler({
  axis,
  beats,
  width,
}: {
  axis: Axis;
  beats: number;
  width: number;
}) {
  const wide = axis.beatTicks * axis.per > 48;
  const bar = axis.barTicks * axis.per;
  const every = wide ? axis.beatTicks : axis.barTicks * (bar > 46 ? 1 : bar > 23 ? 2 : bar > 11.5 ? 4 : 8);
  const at: number[] = [];
  for (let t = Math.ceil(axis.from / every) * every; t < axis.to; t += every) at.push(t);
  return (
    <svg width={Math.max(width, 0)} height={22} aria-hidden="true">
      {at.map((t) => {
        const isBar = t % axis.barTicks === 0;
        const n = Math.floor(t / axis.barTicks) + 1;
        return (
          <text
            key={t}
            x={labelWidth + axis.x(t)}
            y={16}
            style={isBar ? { fill: "var(--color-base-content)", fontWeight: 600 } : {}}
          >
            {isBar
              ? bar > 60
                ? `bar ${n}`
                : n
              : `${n}.${(((t % axis.barTicks) / axis.beatTicks) % beats) + 1}`}
          </text>
        );
      })}
    </svg>
  );
});

/** All hits in small, each row a line of the overview. */
export function Small({ state, x }: { state: State; x: (tick: number) => number }) {
  const { groove, kit } = state.document;
  const height = 22 / Math.max(kit.voices.length, 1);
  return kit.voices.map((v, i) => (
    <SmallRow
      key={v.id}
      hits={groove.lanes.find((l) => l.voice === v.id)?.hits ?? nothing}
      x={x}
      y={4 + i * height}
      height={Math.max(height - 0.8, 0.8)}
      family={v.family}
    />
  ));
}

const SmallRow = memo(function SmallRow(p: {
  hits: Hit[];
  x: (tick: number) => number;
  y: number;
  height: number;
  family: string;
}) {
  const y = p.y.toFixed(1);
  const down = `v${p.height.toFixed(1)}`;
  return (
    <path
      d={p.hits.map((h) => `M${p.x(h.tick).toFixed(1)} ${y}${down}`).join("")}
      stroke={hue(p.family)}
      strokeWidth={p.hits.length > 400 ? 0.8 : 1.6}
      opacity={0.75}
    />
  );
});
