// The recording on the time axis, as a wave or as a spectrogram, with the
// beats on it; a beat can be dragged where the grid wanders.
import { useState } from "react";
import type { Analysis } from "../../api/client";
import { useDrag } from "../../parts/useDrag";
import type { Axis } from "../../time/axis";
import { labelWidth, steps } from "./HitRow";
import { Spectrogram } from "./Spectrogram";
import { Wave } from "./Wave";

const height = 70;

export function Sound(p: {
  project: string;
  reference: string;
  analysis: Analysis;
  time: Axis;
  width: number;
  /** A beat, by its number, was dragged to a time. */
  onBeat: (beat: number, time: number) => void;
  onBarOne: (time: number) => void;
}) {
  const { time, width } = p;
  const [spectrum, setSpectrum] = useState(false);
  const [drag, setDrag] = useState<{ beat: number; x: number; by: number } | null>(null);
  const inner = time.x(time.to) - time.x(time.from);
  const beats = steps(p.analysis, time).filter((l) => l.rank < 2);
  const perSecond = time.x(1) - time.x(0);
  const dragging = useDrag<{ beat: number; x: number; by: number }>({
    start: (e) => {
      const beat = (e.target as SVGElement).dataset.beat;
      return beat === undefined ? null : { beat: Number(beat), x: e.clientX, by: 0 };
    },
    move: (d, e) => {
      d.by = e.clientX - d.x;
      setDrag({ ...d });
    },
    drop: (d) => {
      const line = beats.find((l) => l.beat === d.beat);
      if (line && Math.abs(d.by) > 2) p.onBeat(d.beat, line.at + d.by / perSecond);
      setDrag(null);
    },
    cancel: () => setDrag(null),
  });
  return (
    <div className="rowbox flex" style={{ height }}>
      <div className="flex shrink-0 flex-col justify-between py-2 pl-3" style={{ width: labelWidth }}>
        <span className="font-semibold">{spectrum ? "Spectrogram" : "Wave"}</span>
        <button
          type="button"
          className="w-fit cursor-pointer text-xs text-muted underline decoration-dotted underline-offset-2"
          onClick={() => setSpectrum(!spectrum)}
        >
          {spectrum ? "show the wave" : "show spectrum"}
        </button>
      </div>
      <div className="relative" style={{ width, height }}>
        <div className="absolute" style={{ left: time.x(time.from), top: 0 }}>
          {spectrum ? (
            <Spectrogram
              project={p.project}
              reference={p.reference}
              from={time.from}
              to={time.to}
              width={inner}
              height={height}
            />
          ) : (
            <svg width={inner} height={height} role="img" aria-label="Wave of the stretch on show">
              <Wave
                project={p.project}
                reference={p.reference}
                from={time.from}
                to={time.to}
                width={inner}
                height={height}
                colour="color-mix(in oklab, var(--color-base-content) 62%, transparent)"
              />
            </svg>
          )}
        </div>
        <svg
          width={width}
          height={height}
          className="absolute inset-0 touch-none"
          role="img"
          aria-label="Beats; drag one by its handle to move it, double click one to start the bar there"
          {...dragging}
        >
          {beats.map((l) => {
            const x = time.x(l.at) + (drag?.beat === l.beat ? drag.by : 0);
            return (
              <g key={l.at}>
                <line
                  x1={x}
                  x2={x}
                  y1={2}
                  y2={height - 2}
                  stroke="var(--late)"
                  strokeWidth={l.rank === 0 ? 2 : 1}
                  opacity={l.rank === 0 ? 1 : 0.75}
                />
                {/* biome-ignore lint/a11y/noStaticElementInteractions: Bar one has buttons; drawing the grid is for the mouse */}
                <path
                  d={`M${x - 5} 0 H${x + 5} L${x} 8 Z`}
                  fill="var(--late)"
                  className="cursor-ew-resize"
                  data-beat={l.beat}
                  onDoubleClick={() => p.onBarOne(l.at)}
                >
                  <title>Drag the beat; double click to start the bar here</title>
                </path>
              </g>
            );
          })}
        </svg>
      </div>
    </div>
  );
}
