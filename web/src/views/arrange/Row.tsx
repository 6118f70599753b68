// A voice over the whole piece: what is painted in, and the hits where there is room.
import { useCallback, useState } from "react";
import type { Document, Voice } from "../../api/client";
import { monitor } from "../../live/monitor";
import { Canvas, colourOf } from "../../parts/Canvas";
import { Glyph, hue } from "../../parts/family";
import { useDrag } from "../../parts/useDrag";
import { useProject } from "../../state/project";
import type { Axis } from "../../time/axis";
import type { Facts } from "../../time/piece";
import { hasHits, type Laid, plays, playsAt, type Stretch, snapped } from "./layout";
import { useArrange } from "./store";

const height = 38;

/** The first of pairs whose tick is at least a tick; binary search. */
export function firstPair(hits: readonly number[], tick: number): number {
  let low = 0;
  let high = hits.length / 2;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((hits[2 * middle] as number) < tick) low = middle + 1;
    else high = middle;
  }
  return low;
}

export function ArrangeRow(p: {
  doc: Document;
  voice: Voice;
  facts: Facts;
  list: Laid[];
  axis: Axis;
  left: number;
  hits: readonly number[];
  children: React.ReactNode;
}) {
  const { doc, voice, list, axis, hits, facts } = p;
  const edit = useProject((s) => s.edit);
  const snap = useArrange((s) => s.snap);
  const [painted, setPainted] = useState<(Stretch & { plays: boolean }) | null>(null);
  const colour = hue(voice.family);
  const paint = useCallback(
    (pen: CanvasRenderingContext2D) => {
      const c = colourOf(colour);
      pen.strokeStyle = colourOf("var(--line)");
      pen.lineWidth = 1;
      const perBar = axis.per * 3840;
      const every = perBar < 5 ? 8 : perBar < 10 ? 4 : 1;
      for (let i = 0; i < facts.bars.length; i += every) {
        const x = Math.round(axis.x(facts.bars[i]?.tick ?? 0)) + 0.5;
        if (x < 0 || x > axis.width) continue;
        pen.beginPath();
        pen.moveTo(x, 0);
        pen.lineTo(x, height);
        pen.stroke();
      }
      pen.fillStyle = c;
      for (const l of list) {
        if (l.span.to < axis.from || l.span.from > axis.to) continue;
        pen.globalAlpha = hasHits(doc, l.section.variation, voice.id) ? 0.2 : 0.06;
        for (const s of plays(l, voice.id))
          pen.fillRect(axis.x(s.from), 3, Math.max(axis.x(s.to) - axis.x(s.from) - 1, 1), height - 6);
      }
      if (painted) {
        pen.globalAlpha = 0.45;
        pen.fillStyle = painted.plays ? c : colourOf("var(--color-base-100)");
        pen.fillRect(axis.x(painted.from), 3, axis.x(painted.to) - axis.x(painted.from), height - 6);
        pen.fillStyle = c;
      }
      pen.globalAlpha = 1;
      const wide = Math.min(Math.max(axis.per * 60, 1), 3);
      for (let i = firstPair(hits, axis.from); i < hits.length / 2; i++) {
        const tick = hits[2 * i] as number;
        if (tick > axis.to) break;
        const h = ((hits[2 * i + 1] as number) / 127) * (height - 8);
        pen.fillRect(axis.x(tick), height - 4 - h, wide, h);
      }
    },
    [doc, voice.id, colour, list, axis, hits, facts, painted],
  );
  const at = (e: React.PointerEvent) => axis.at(e.clientX - e.currentTarget.getBoundingClientRect().left);
  const drag = useDrag<{ at: number; plays: boolean }>({
    start: (e) => {
      const tick = Math.min(Math.max(at(e), 0), axis.to);
      const d = { at: tick, plays: !playsAt(list, voice.id, tick) };
      setPainted({ ...snapped(facts, tick, snap), plays: d.plays });
      return d;
    },
    move: (d, e) => setPainted({ ...between(d.at, at(e)), plays: d.plays }),
    drop: (d, e) => {
      setPainted(null);
      const { from, to } = between(d.at, at(e));
      edit([{ op: "piece.paint", voices: [voice.id], from, to, plays: d.plays }]);
    },
    cancel: () => setPainted(null),
  });
  const end = facts.bars.at(-1)?.tick ?? 0;
  const between = (a: number, b: number): Stretch => {
    const low = Math.max(Math.min(a, b), 0);
    const high = Math.min(Math.max(a, b), end - 1);
    return { from: snapped(facts, low, snap).from, to: snapped(facts, high, snap).to };
  };
  return (
    <div className="mb-1 rounded-lg bg-base-200" data-row={voice.id}>
      <div className="flex">
        <button
          type="button"
          className="flex shrink-0 cursor-pointer items-center gap-2 overflow-hidden pl-2.5 text-left"
          style={{ width: p.left, color: colour }}
          title={`${voice.name}: hear it`}
          onClick={() => void monitor.strike(voice.id)}
        >
          <Glyph family={voice.family} size={15} />
          <span className="truncate text-sm font-semibold text-base-content">{voice.name}</span>
        </button>
        <div
          className="relative cursor-cell touch-none"
          role="img"
          aria-label={`${voice.name}: where it plays. Drag to paint it in or leave it out`}
          data-testid={`paint-${voice.id}`}
          {...drag}
        >
          <Canvas width={axis.width} height={height} paint={paint} />
        </div>
      </div>
      {p.children}
    </div>
  );
}
