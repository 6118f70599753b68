// A hit as a stick: its foot on the straight grid, its height the velocity,
// leaning left when early and right when late.
import { memo } from "react";

export interface StickProps {
  /** Foot and head in pixels; the row is height high. */
  x: number;
  lean: number;
  velocity: number;
  height: number;
  colour: string;
  /** Early, late or neither: the rim of the head. */
  offset: number;
  hollow?: boolean;
  faint?: boolean;
  /** Its time is likely, not measured. */
  covered?: boolean;
  /** A grace note: a small head. */
  small?: boolean;
  selected?: boolean;
  title?: string;
}

const top = 9;
const foot = 5;

/** Where a head of this velocity stands, in pixels from the row's top. */
export const headY = (velocity: number, height: number) =>
  height - foot - (velocity / 127) * (height - foot - top);

/** The velocity that belongs to a height. */
export const velocityAt = (y: number, height: number) =>
  Math.round(Math.min(Math.max(((height - foot - y) / (height - foot - top)) * 127, 1), 127));

export const Stick = memo(function Stick(p: StickProps) {
  const y = headY(p.velocity, p.height);
  const base = p.height - foot;
  const rim = p.covered
    ? p.colour
    : p.offset < -0.5
      ? "var(--early)"
      : p.offset > 0.5
        ? "var(--late)"
        : p.colour;
  if (p.hollow)
    return (
      <g opacity={p.faint ? 0.5 : 1} data-hollow>
        <line
          x1={p.x}
          y1={base}
          x2={p.x + p.lean}
          y2={y}
          stroke="var(--ref)"
          strokeWidth="1.3"
          strokeDasharray="3 2.5"
        />
        <circle cx={p.x + p.lean} cy={y} r="5" fill="none" stroke="var(--ref)" strokeWidth="1.4" />
      </g>
    );
  return (
    <g opacity={p.faint ? 0.45 : 1}>
      <line
        x1={p.x}
        y1={base}
        x2={p.x + p.lean}
        y2={y}
        stroke={p.colour}
        strokeWidth="2.4"
        strokeLinecap={p.covered ? "butt" : "round"}
        strokeDasharray={p.covered ? "3.5 3" : undefined}
      />
      {p.selected && (
        <circle
          cx={p.x + p.lean}
          cy={y}
          r="9"
          fill="none"
          stroke="var(--color-base-content)"
          strokeWidth="1.6"
        />
      )}
      <circle
        cx={p.x + p.lean}
        cy={y}
        r={p.small ? 3.2 : 5.2}
        fill={p.colour}
        stroke={rim}
        strokeWidth="2.2"
      />
      {p.title && <title>{p.title}</title>}
    </g>
  );
});

/** The largest of the offered magnifications at which heads stay within half a step. */
export function fittingScale(offsets: number[], stepMs: number): number {
  const most = offsets.reduce((a, b) => Math.max(a, Math.abs(b)), 1);
  return [10, 8, 5, 3, 2, 1].find((m) => most * m <= stepMs * 0.55) ?? 1;
}
