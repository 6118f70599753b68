import { colourOf } from "../../parts/Canvas";
import { ppq } from "../../state/ticks";
import { type Axis, type Differs, type Placed, rowHeight } from "./layout";

export const stepsOf = (axis: Axis, grid: number) => (grid > 0 ? ppq / grid : axis.stepTicks);

/** A roll as it is drawn. */
export const roll = (tick: number, velocity: number, length: number, rate: number) => ({
  id: "",
  tick,
  velocity,
  nudge_ms: 0,
  semitones: 0,
  length_ticks: Math.round(length),
  roll: { per_beat: rate },
});

/** Marks at the foot of what is not as in the other variation: filled here, hollow only there. */
export function paintDifferences(
  pen: CanvasRenderingContext2D,
  axis: Axis,
  shown: Placed[],
  differs: Differs,
) {
  pen.fillStyle = colourOf("var(--color-primary)");
  pen.strokeStyle = pen.fillStyle;
  pen.lineWidth = 1.4;
  for (const p of shown)
    if (differs.here.has(p.hit.id)) pen.fillRect(axis.x(p.hit.tick) - 4, rowHeight - 4, 8, 3);
  for (const t of differs.there)
    if (t >= axis.from && t <= axis.to) pen.strokeRect(axis.x(t) - 4, rowHeight - 4.5, 8, 3);
}

/** Where a lane that is shorter than the groove begins again. */
export function paintRounds(pen: CanvasRenderingContext2D, axis: Axis, lasts: number) {
  pen.fillStyle = colourOf("var(--color-base-300)");
  pen.globalAlpha = 0.5;
  pen.fillRect(axis.x(lasts), 2, axis.x(axis.total) - axis.x(lasts), rowHeight - 4);
  pen.globalAlpha = 1;
  pen.strokeStyle = colourOf("var(--color-primary)");
  pen.lineWidth = 1.5;
  pen.setLineDash([4, 3]);
  pen.beginPath();
  for (let t = lasts; t < axis.to && t < axis.total; t += lasts) {
    pen.moveTo(axis.x(t), 3);
    pen.lineTo(axis.x(t), rowHeight - 3);
  }
  pen.stroke();
  pen.setLineDash([]);
}
