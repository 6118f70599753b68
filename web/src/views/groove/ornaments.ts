// What a hit has beside a stroke, drawn on its row: rolls, flams, lengths, chance,
// pitch, what plays backwards.
import type { Family } from "../../api/client";
import { colourOf } from "../../parts/Canvas";
import { hue } from "../../parts/family";
import { num } from "../../parts/format";
import { headY } from "../../parts/sticks";
import { ppq } from "../../state/ticks";
import { type Axis, isDropped, isRoll, type Placed, rowHeight, strokesOf } from "./layout";

const foot = rowHeight - 5;

export function paintExtras(
  pen: CanvasRenderingContext2D,
  p: {
    shown: Placed[];
    axis: Axis;
    scale: number;
    colour: string;
    families: Record<string, Family>;
    /** Where the lane ends, ticks. */
    beyond: number;
  },
) {
  const { axis } = p;
  for (const { hit, offset } of p.shown) {
    const plain =
      !hit.length_ticks &&
      !hit.roll &&
      !hit.flam &&
      !hit.of &&
      !hit.semitones &&
      !hit.reverse &&
      !hit.glide_ms &&
      !hit.fall_st;
    if (plain) continue;
    const colour = colourOf(hit.sound ? hue(p.families[hit.sound] ?? "perc") : p.colour);
    const lean = offset * axis.msPixels * p.scale;
    const x = axis.x(hit.tick);
    pen.fillStyle = colour;
    pen.strokeStyle = colour;
    if (isRoll(hit) || (hit.flam?.strokes ?? 0) > 0) paintStrokes(pen, p, hit, x, lean);
    else if (hit.length_ticks) {
      const long = hit.length_ticks * axis.per;
      const from = hit.reverse ? x - long : x;
      pen.globalAlpha = 0.45;
      pen.beginPath();
      if (hit.cut || hit.reverse) pen.rect(from, foot - 4, long, 5);
      else {
        pen.moveTo(from, foot - 4);
        pen.lineTo(from + long, foot - 0.5);
        pen.lineTo(from, foot + 1);
      }
      pen.fill();
      pen.globalAlpha = 1;
      if (hit.cut) {
        pen.strokeStyle = colourOf("var(--color-primary)");
        pen.lineWidth = 1.6;
        line(pen, from + long, foot - 8, from + long, foot + 2);
      }
    }
    if (hit.reverse) {
      pen.fillStyle = colour;
      pen.beginPath();
      pen.moveTo(x + lean - 8, headY(hit.velocity, rowHeight));
      pen.lineTo(x + lean - 15, headY(hit.velocity, rowHeight) - 4);
      pen.lineTo(x + lean - 15, headY(hit.velocity, rowHeight) + 4);
      pen.fill();
    }
    const words = [
      isDropped(hit) ? "off" : (hit.of ?? 0) > 0 ? `${hit.times}/${hit.of}` : "",
      hit.semitones !== 0 ? num(hit.semitones, hit.semitones % 1 === 0 ? 0 : 1, true) : "",
    ]
      .filter(Boolean)
      .join(" ");
    if (words) {
      pen.font = "10px var(--font-num, monospace)";
      pen.fillStyle = colourOf("var(--color-base-content)");
      pen.globalAlpha = 0.75;
      pen.fillText(words, x + lean + 8, Math.max(headY(hit.velocity, rowHeight) + 3, 11));
      pen.globalAlpha = 1;
    }
  }
}

function line(pen: CanvasRenderingContext2D, x: number, y: number, toX: number, toY: number) {
  pen.beginPath();
  pen.moveTo(x, y);
  pen.lineTo(toX, toY);
  pen.stroke();
}

/** The strokes of a roll under its line of velocities, and those of a flam. */
function paintStrokes(
  pen: CanvasRenderingContext2D,
  p: { axis: Axis; beyond: number },
  hit: Placed["hit"],
  x: number,
  lean: number,
) {
  const strokes = strokesOf(hit).filter((s) => hit.tick + s.ticks < p.beyond);
  const at = (s: { ticks: number; early: number }) =>
    x + lean + s.ticks * p.axis.per - Math.max(s.early * p.axis.msPixels, s.early > 0 ? 4 : 0);
  const rolls = isRoll(hit);
  if (rolls) {
    pen.globalAlpha = 0.16;
    pen.beginPath();
    pen.moveTo(x + lean, foot);
    for (const s of strokes) if (s.early === 0) pen.lineTo(at(s), headY(s.velocity, rowHeight));
    const last = strokes[strokes.length - 1];
    const end = Math.min((hit.length_ticks || ppq) + hit.tick, p.beyond) - hit.tick;
    if (last) pen.lineTo(x + lean + end * p.axis.per, headY(last.velocity, rowHeight));
    pen.lineTo(x + lean + end * p.axis.per, foot);
    pen.fill();
    pen.globalAlpha = 1;
  }
  pen.lineWidth = 1.4;
  for (const s of strokes) {
    if (s.ticks === 0 && s.early === 0) continue; // the hit itself
    const y = headY(s.velocity, rowHeight);
    line(pen, at(s), foot, at(s), y);
    pen.beginPath();
    pen.arc(at(s), y, 2.2, 0, 2 * Math.PI);
    pen.fill();
  }
}
