// Every hit's offset by its step in the bar: late above, early below.
import { memo, useCallback } from "react";
import { Canvas, colourOf } from "./Canvas";
import { hue } from "./family";

export interface Dot {
  key: string;
  step: number;
  offset: number;
  family: string;
}

const hearing = 6; // ms: Friberg & Sundberg 1995, spacings below 240 ms

interface Plot {
  filled: Dot[];
  hollow: Dot[];
  steps: number;
  width: number;
  height: number;
}

export const OffsetPlot = memo(function OffsetPlot({ filled, hollow, steps, width, height }: Plot) {
  const paint = useCallback(
    (pen: CanvasRenderingContext2D) => paintPlot(pen, { filled, hollow, steps, width, height }),
    [filled, hollow, steps, width, height],
  );
  return (
    <Canvas
      width={width}
      height={height}
      paint={paint}
      role="img"
      aria-label="Offset of every hit by step, in milliseconds"
    />
  );
});

/** Of thousands of dots, those that another one does not cover to half a pixel. */
function distinct(dots: Dot[], ofPixel: number): Iterable<Dot> {
  if (dots.length < 1000) return dots;
  return new Map(
    dots.map((d) => [`${d.family} ${d.step.toFixed(1)} ${Math.round((2 * d.offset) / ofPixel)}`, d]),
  ).values();
}

function paintPlot(pen: CanvasRenderingContext2D, p: Plot) {
  const { width, height, steps } = p;
  let most = 20;
  for (const d of p.filled) most = Math.max(most, Math.abs(d.offset));
  for (const d of p.hollow) most = Math.max(most, Math.abs(d.offset));
  const range = Math.ceil((Math.min(most, 90) + 4) / 10) * 10;
  const left = 46;
  const x = (step: number) => left + ((step + 0.5) / steps) * (width - left - 12);
  const y = (ms: number) => height / 2 - 8 - (ms / range) * (height / 2 - 18);
  const held = (ms: number) => Math.max(Math.min(ms, range), -range);
  // Families stand side by side; the hollow dots of one right of its filled.
  const families = [...new Set([...p.filled, ...p.hollow].map((d) => d.family))];
  const room = Math.min(((width - left - 12) / steps) * 0.8, 13 * families.length);
  const aside = (family: string) => ((families.indexOf(family) + 0.5) / families.length - 0.5) * room;
  const both = p.filled.length > 0 && p.hollow.length > 0 ? 2.5 : 0;
  const plain = colourOf("var(--muted)");
  const strong = colourOf("var(--color-base-content)");
  const font = getComputedStyle(document.documentElement).getPropertyValue("--font-mono");
  pen.fillStyle = colourOf("var(--color-base-300)");
  pen.globalAlpha = 0.75;
  pen.fillRect(left, y(hearing), width - left - 10, y(-hearing) - y(hearing));
  pen.globalAlpha = 1;
  pen.strokeStyle = colourOf("var(--line)");
  pen.lineWidth = 1;
  const text = (what: string, at: number, height: number, colour: string, bold = false) => {
    pen.font = `${bold ? "600 " : ""}11px ${font}`;
    pen.fillStyle = colour;
    pen.fillText(what, at, height);
  };
  pen.textAlign = "right";
  for (const t of [-range, -range / 2, 0, range / 2, range]) {
    pen.beginPath();
    pen.moveTo(left, y(t));
    pen.lineTo(width - 10, y(t));
    pen.stroke();
    text(t > 0 ? `+${t}` : t < 0 ? `−${-t}` : "0", left - 6, y(t) + 4, plain);
  }
  text("late", left - 6, y(range * 0.75) + 4, colourOf("var(--late)"));
  text("early", left - 6, y(-range * 0.75) + 4, colourOf("var(--early)"));
  pen.textAlign = "center";
  for (let s = 0; s < steps; s++)
    text(`${s + 1}`, x(s), height - 2, s % 4 === 0 ? strong : plain, s % 4 === 0);
  pen.lineWidth = 1.1;
  pen.globalAlpha = 0.65;
  for (const d of distinct(p.hollow, range / (height / 2 - 18))) {
    pen.strokeStyle = colourOf(hue(d.family));
    pen.beginPath();
    pen.arc(x(d.step) + aside(d.family) + both, y(held(d.offset)), 3.4, 0, 2 * Math.PI);
    pen.stroke();
  }
  pen.globalAlpha = 1;
  for (const d of distinct(p.filled, range / (height / 2 - 18))) {
    pen.fillStyle = colourOf(hue(d.family));
    pen.beginPath();
    pen.arc(x(d.step) + aside(d.family) - both, y(held(d.offset)), 3.6, 0, 2 * Math.PI);
    pen.fill();
  }
}
