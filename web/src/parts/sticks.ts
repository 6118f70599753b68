// A hit as a stick: its foot on the straight grid, its height the velocity,
// leaning left when early and right when late.
import { colourOf } from "./Canvas";
import { stamp } from "./stamp";

export interface Stick {
  /** Foot in pixels, and how far from it the head stands. */
  x: number;
  lean: number;
  velocity: number;
  colour: string;
  /** Early, late or neither: the rim of the head. */
  offset: number;
  /** Of the reference, behind one's own. */
  hollow?: boolean;
  faint?: boolean;
  /** Its time is likely, not measured. */
  covered?: boolean;
  /** A grace note: a small head. */
  small?: boolean;
  selected?: boolean;
}

const top = 9;
const foot = 5;

/** Where a head of this velocity stands, in pixels from the row's top. */
export const headY = (velocity: number, height: number) =>
  height - foot - (velocity / 127) * (height - foot - top);

/** The velocity that belongs to a height. */
export const velocityAt = (y: number, height: number) =>
  Math.round(Math.min(Math.max(((height - foot - y) / (height - foot - top)) * 127, 1), 127));

/** The colour of a head's rim. */
export function rimOf(s: Stick): string {
  if (s.covered) return s.colour;
  return s.offset < -0.5 ? "var(--early)" : s.offset > 0.5 ? "var(--late)" : s.colour;
}

/** Paints a stick in a row of a height. */
export function paintStick(pen: CanvasRenderingContext2D, s: Stick, height: number) {
  const y = headY(s.velocity, height);
  const colour = colourOf(s.hollow ? "var(--ref)" : s.colour);
  pen.globalAlpha = s.faint ? (s.hollow ? 0.5 : 0.45) : 1;
  if (s.hollow || s.covered) {
    pen.strokeStyle = colour;
    pen.lineWidth = s.hollow ? 1.3 : 2.4;
    pen.lineCap = "butt";
    pen.setLineDash(s.hollow ? [3, 2.5] : [3.5, 3]);
    pen.beginPath();
    pen.moveTo(s.x, height - foot);
    pen.lineTo(s.x + s.lean, y);
    pen.stroke();
    pen.setLineDash([]);
  } else {
    // Filled, not stroked: a third of the time without a graphics card.
    pen.fillStyle = colour;
    pen.beginPath();
    pen.moveTo(s.x - 1.2, height - foot);
    pen.lineTo(s.x + 1.2, height - foot);
    pen.lineTo(s.x + s.lean + 1.2, y);
    pen.lineTo(s.x + s.lean - 1.2, y);
    pen.fill();
  }
  if (s.selected) ring(pen, s.x + s.lean, y, 8, 1.6, colourOf("var(--color-base-content)"));
  if (s.hollow) stamp(pen, `hollow ${colour}`, 13, s.x + s.lean, y, (p) => ring(p, 0, 0, 5, 1.4, colour));
  else {
    const rim = colourOf(rimOf(s));
    const r = s.small ? 3.2 : 5.2;
    stamp(pen, `${colour} ${rim} ${r}`, 15, s.x + s.lean, y, (p) => {
      p.fillStyle = colour;
      p.beginPath();
      p.arc(0, 0, r, 0, 2 * Math.PI);
      p.fill();
      p.lineWidth = 2.2;
      p.strokeStyle = rim;
      p.stroke();
    });
  }
  pen.globalAlpha = 1;
}

function ring(pen: CanvasRenderingContext2D, x: number, y: number, r: number, width: number, colour: string) {
  pen.strokeStyle = colour;
  pen.lineWidth = width;
  pen.beginPath();
  pen.arc(x, y, r, 0, 2 * Math.PI);
  pen.stroke();
}

/** Pixels between sticks below which they are only a pattern. */
export const closest = 9;

/** Paints sticks that stand so close that only their pattern can be seen: all at once, without rims. */
export function paintDense(pen: CanvasRenderingContext2D, sticks: Stick[], colour: string, height: number) {
  pen.strokeStyle = colourOf(colour);
  pen.fillStyle = pen.strokeStyle;
  pen.lineWidth = 1;
  pen.beginPath();
  for (const s of sticks) {
    pen.moveTo(s.x, height - foot);
    pen.lineTo(s.x, headY(s.velocity, height));
  }
  pen.stroke();
  for (const s of sticks) {
    const size = s.selected ? 4 : 2;
    pen.fillRect(s.x + s.lean - size / 2, headY(s.velocity, height) - size / 2, size, size);
  }
}

export interface GridLine {
  x: number;
  /** 0 bar, 1 beat, 2 step. */
  rank: number;
}

/** Bars, beats and steps behind the sticks. */
export function paintGrid(pen: CanvasRenderingContext2D, lines: GridLine[], height: number) {
  for (const rank of [2, 1, 0]) {
    pen.strokeStyle = colourOf(
      rank === 0 ? "var(--color-base-content)" : rank === 1 ? "var(--line-strong)" : "var(--line)",
    );
    pen.globalAlpha = rank === 0 ? 0.65 : 1;
    pen.lineWidth = rank === 0 ? 1.3 : 1;
    pen.beginPath();
    for (const l of lines) {
      if (l.rank !== rank) continue;
      pen.moveTo(l.x, 5);
      pen.lineTo(l.x, height - 5);
    }
    pen.stroke();
  }
  pen.globalAlpha = 1;
}

/** The largest offset of hits, early or late, ms. */
export const widest = (hits: { offset_ms: number | null }[]) =>
  hits.reduce((most, h) => Math.max(most, Math.abs(h.offset_ms ?? 0)), 0);

/**
 * The largest of the offered magnifications at which heads stay within half a step; most is the
 * largest offset, ms.
 */
export function fittingScale(most: number, stepMs: number): number {
  return [10, 8, 5, 3, 2, 1].find((m) => Math.max(most, 1) * m <= stepMs * 0.55) ?? 1;
}
