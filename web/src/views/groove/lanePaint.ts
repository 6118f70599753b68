// A lane as it is drawn: the grid, the reference's hits behind, mine as sticks.
import type { Family, Hit, Schemas, Voice } from "../../api/client";
import { colourOf } from "../../parts/Canvas";
import { hue } from "../../parts/family";
import { clamp } from "../../parts/format";
import { closest, paintDense, paintGrid, paintStick } from "../../parts/sticks";
import { ppq } from "../../state/ticks";
import {
  type Axis,
  type Differs,
  gridLines,
  isDropped,
  isRoll,
  type Placed,
  placed,
  rowHeight,
  type Shadow,
} from "./layout";
import { paintExtras } from "./ornaments";

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

export interface Painted {
  voice: Voice;
  hits: Hit[];
  falls: Schemas["Fall"][];
  /** The hits on show. */
  shown: Placed[];
  selected: ReadonlySet<string>;
  /** How far the selected ones are dragged, ticks. */
  moved: number;
  /** Where the cursor is; null is in another lane. */
  cursor: number | null;
  axis: Axis;
  scale: number;
  stepTicks: number;
  lasts: number;
  shadows: Shadow[];
  families: Record<string, Family>;
  differs: Differs | undefined;
  /** Whether the voice is not heard. */
  faint: boolean;
}

export function paintLane(pen: CanvasRenderingContext2D, lane: Painted) {
  const { voice, shown, selected, moved, cursor, axis, scale, lasts, families, differs } = lane;
  if (cursor !== null) paintCursor(pen, axis.x(cursor));
  paintGrid(pen, gridLines(axis, lane.stepTicks), rowHeight);
  if (lasts < axis.total) paintRounds(pen, axis, lasts);
  paintShadows(pen, lane);
  const colour = hue(voice.family);
  paintExtras(pen, { shown, axis, scale, colour, families, beyond: lasts });
  if (differs) paintDifferences(pen, axis, shown, differs);
  const sticks = shown.map(({ hit, offset }) => {
    const isSelected = selected.has(hit.id);
    return {
      x: axis.x(clamp(hit.tick + (isSelected ? moved : 0), 0, axis.total - 1)),
      lean: offset * axis.msPixels * scale,
      velocity: hit.velocity,
      colour: hit.sound ? hue(families[hit.sound] ?? voice.family) : colour,
      offset,
      selected: isSelected,
      faint: lane.faint || isDropped(hit),
      small: isRoll(hit),
    };
  });
  if (sticks.length > axis.width / closest) paintDense(pen, sticks, colour, rowHeight);
  else for (const s of sticks) paintStick(pen, s, rowHeight);
  if (sticks.length < 400) paintRepeats(pen, lane, colour);
}

function paintCursor(pen: CanvasRenderingContext2D, x: number) {
  pen.globalAlpha = 0.1;
  pen.fillStyle = colourOf("var(--color-base-content)");
  pen.beginPath();
  pen.roundRect(x - 7, 3, 14, rowHeight - 6, 4);
  pen.fill();
}

/** The reference's hits, hollow. */
function paintShadows(pen: CanvasRenderingContext2D, { shadows, axis, scale }: Painted) {
  for (const s of shadows) {
    if (s.tick < axis.from - axis.beatTicks || s.tick > axis.to + axis.beatTicks) continue;
    const lean = s.offset_ms * axis.msPixels * scale;
    const stick = {
      x: axis.x(s.tick),
      lean,
      velocity: s.velocity,
      colour: "",
      offset: s.offset_ms,
      hollow: true,
    };
    paintStick(pen, stick, rowHeight);
  }
}

/** What comes round again, small and faint: it is only shown, never unrolled. */
function paintRepeats(
  pen: CanvasRenderingContext2D,
  { hits, falls, axis, scale, lasts }: Painted,
  colour: string,
) {
  for (let round = lasts; round < Math.min(axis.to, axis.total); round += lasts) {
    if (round + lasts < axis.from) continue;
    const there = {
      ...axis,
      from: axis.from - round,
      to: axis.to - round,
      x: (t: number) => axis.x(t + round),
    };
    for (const { hit, offset } of placed(hits, falls, there, scale)) {
      if (hit.tick + round >= axis.total) continue;
      const lean = offset * axis.msPixels * scale;
      const x = axis.x(hit.tick + round);
      paintStick(
        pen,
        { x, lean, velocity: hit.velocity, colour, offset, faint: true, small: true },
        rowHeight,
      );
    }
  }
}
