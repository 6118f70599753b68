// The sections above the rows: chosen by a click, moved by a drag, made longer at their
// right edges.
import { useState } from "react";
import type { Document } from "../../api/client";
import { count } from "../../parts/format";
import { useDrag } from "../../parts/useDrag";
import { newGesture, useProject } from "../../state/project";
import type { Axis } from "../../time/axis";
import type { Facts } from "../../time/piece";
import { type Laid, sectionBar, variationName } from "./layout";
import { useArrange } from "./store";

interface Drag {
  id: string;
  way: "move" | "end";
  x: number;
  bars: number;
  gesture: string;
  moved: boolean;
}

export function Sections(p: { doc: Document; facts: Facts; list: Laid[]; axis: Axis; left: number }) {
  return (
    <div className="relative h-[42px]" role="listbox" aria-label="Sections" aria-orientation="horizontal">
      {p.list.map((l, i) => (
        <OneSection key={l.section.id} {...p} of={l} place={i} />
      ))}
    </div>
  );
}

function OneSection(p: { doc: Document; list: Laid[]; axis: Axis; left: number; of: Laid; place: number }) {
  const { section, span } = p.of;
  const chosen = useArrange();
  const edit = useProject((s) => s.edit);
  const [shift, setShift] = useState(0);
  const [longer, setLonger] = useState<number | null>(null);
  const x0 = p.axis.x(span.from);
  const x1 = p.axis.x(span.to);
  const perBar = sectionBar(span) * p.axis.per;
  const drag = useDrag<Drag>({
    start: (e) => {
      chosen.set({ section: section.id, over: null, panel: "section", cursor: span.from, range: null });
      const x = e.clientX;
      const box = e.currentTarget.getBoundingClientRect();
      return {
        id: section.id,
        way: box.right - x < 8 ? "end" : "move",
        x,
        bars: section.bars,
        gesture: newGesture(),
        moved: false,
      };
    },
    move: (d, e) => {
      if (Math.abs(e.clientX - d.x) > 4) d.moved = true;
      if (!d.moved) return;
      if (d.way === "move") setShift(e.clientX - d.x);
      else setLonger(Math.min(Math.max(Math.round(d.bars + (e.clientX - d.x) / perBar), 1), 1000));
    },
    drop: (d, e) => {
      setShift(0);
      setLonger(null);
      if (!d.moved) return;
      if (d.way === "end") {
        const bars = Math.min(Math.max(Math.round(d.bars + (e.clientX - d.x) / perBar), 1), 1000);
        if (bars !== d.bars) edit([{ op: "section.set", section: d.id, bars }], d.gesture);
        return;
      }
      const middle = p.axis.at(x0 + (x1 - x0) / 2 + e.clientX - d.x);
      const to = p.list.filter((l) => l.section.id !== d.id && (l.span.from + l.span.to) / 2 < middle).length;
      if (to !== p.place) edit([{ op: "section.move", section: d.id, to }]);
    },
    cancel: () => {
      setShift(0);
      setLonger(null);
    },
  });
  if (x1 < 0 || x0 > p.axis.width) return null;
  const from = Math.max(x0, 0);
  const width = Math.max((longer ? x0 + longer * perBar : Math.min(x1, p.axis.width)) - from - 2, 3);
  const tempo =
    section.tempo_to_bpm || section.tempo_bpm
      ? `, ${Math.round(span.from_bpm)}${section.tempo_to_bpm ? `→${Math.round(span.to_bpm)}` : ""} BPM`
      : "";
  const meter = section.meter ? `, ${section.meter.beats}/${section.meter.unit}` : "";
  const is = chosen.section === section.id;
  return (
    <button
      type="button"
      role="option"
      aria-selected={is}
      aria-label={`${section.name}, ${count(section.bars, "bar")}, variation ${variationName(p.doc, section.variation)}`}
      title={`${section.name}: ${count(section.bars, "bar")}, ${variationName(p.doc, section.variation)}${meter}${tempo}. Drag to move, its right edge to make it longer`}
      className={`absolute top-0 h-[38px] cursor-grab touch-none overflow-hidden rounded-lg border px-2 text-left leading-snug ${
        is ? "border-base-content bg-row" : "border-transparent bg-base-300"
      } ${shift !== 0 ? "z-20 opacity-80" : ""}`}
      style={{ left: p.left + from, width, transform: `translateX(${shift}px)` }}
      {...drag}
    >
      {width > 24 && (
        <>
          <span className="block truncate text-sm font-semibold">{section.name}</span>
          <span className="num block truncate text-2xs text-muted">
            {width > 100 ? `${count(longer ?? section.bars, "bar")}, ` : `${longer ?? section.bars} `}
            {variationName(p.doc, section.variation)}
            {meter}
            {tempo}
          </span>
        </>
      )}
      <span className="absolute inset-y-0 right-0 w-2 cursor-ew-resize" />
    </button>
  );
}
