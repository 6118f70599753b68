// What lies over the rows: dropouts as dashed boxes, fills, impacts and the like as tags
// at their foot; each is chosen by a click and moved by a drag.
import { useState } from "react";
import { useDrag } from "../../parts/useDrag";
import { useProject } from "../../state/project";
import type { Axis } from "../../time/axis";
import { type Facts, placeText } from "../../time/piece";
import { type Laid, nearest } from "./layout";
import { useArrange } from "./store";

interface Thing {
  section: string;
  id: string;
  kind: string;
  name: string;
  from: number;
  to: number;
}

export function Overlays(p: { facts: Facts; list: Laid[]; axis: Axis; left: number }) {
  const all: Thing[] = p.list.flatMap(({ section, span }) => [
    ...section.dropouts.map((d) => ({
      section: section.id,
      id: d.id,
      kind: "dropout",
      name: d.keeps.length === 0 ? "all out" : "dropout",
      from: span.from + d.at,
      to: span.from + d.at + d.length,
    })),
    ...section.placed.map((o) => ({
      section: section.id,
      id: o.id,
      kind: o.kind,
      name: o.name,
      from: span.from + o.at,
      to: span.from + o.at + o.length,
    })),
  ]);
  const levels = levelsOf(all.map((t) => ({ x: p.axis.x(t.from), name: t.name })));
  return (
    <div className="pointer-events-none absolute inset-0 overflow-hidden" style={{ left: p.left }}>
      {all.map((t, i) => (
        <One key={`${t.section} ${t.id}`} {...p} of={t} level={levels[i] ?? 0} />
      ))}
    </div>
  );
}

/** The line of each tag at the foot, so that tags keep apart; there are three. */
export function levelsOf(tags: readonly { x: number; name: string }[]): number[] {
  const ends = [-1e9, -1e9, -1e9];
  const out = tags.map(() => 0);
  const order = tags.map((_, i) => i).sort((a, b) => (tags[a]?.x ?? 0) - (tags[b]?.x ?? 0));
  for (const i of order) {
    const t = tags[i] as { x: number; name: string };
    const free = ends.findIndex((e) => e <= t.x);
    const level = free < 0 ? ends.indexOf(Math.min(...ends)) : free;
    ends[level] = t.x + Math.min(t.name.length * 6.2 + 12, 152);
    out[i] = level;
  }
  return out;
}

function One({ of, axis, facts, level }: { of: Thing; axis: Axis; facts: Facts; level: number }) {
  const chosen = useArrange();
  const edit = useProject((s) => s.edit);
  const [shift, setShift] = useState(0);
  const is = chosen.over?.section === of.section && chosen.over.id === of.id;
  const drag = useDrag<{ x: number; moved: boolean }>({
    start: (e) => {
      e.stopPropagation();
      chosen.set({ over: { section: of.section, id: of.id }, section: of.section, panel: "over" });
      return { x: e.clientX, moved: false };
    },
    move: (d, e) => {
      if (Math.abs(e.clientX - d.x) > 4) d.moved = true;
      if (d.moved) setShift(e.clientX - d.x);
    },
    drop: (d, e) => {
      setShift(0);
      if (!d.moved) return;
      const at = nearest(facts, of.from + (e.clientX - d.x) / axis.per, chosen.snap);
      if (at === of.from) return;
      edit([{ op: "over.move", section: of.section, over: of.id, at }]);
      chosen.set({ over: null, panel: "section" });
    },
    cancel: () => setShift(0),
  });
  const x = axis.x(of.from);
  const w = axis.x(of.to) - x;
  if (x + w < 0 || x > axis.width) return null;
  const dropout = of.kind === "dropout";
  const upright = dropout && w < 60;
  return (
    <div
      className={`absolute inset-y-0 ${dropout ? "border-2 border-dashed bg-base-100/80" : "border-x border-dotted"} ${
        is ? "border-primary" : dropout ? "border-base-content/70" : "border-[var(--ref)]/70"
      }`}
      style={{ left: x, width: Math.max(w, 2), transform: `translateX(${shift}px)` }}
    >
      {upright && w > 11 && (
        <span
          aria-hidden="true"
          className="absolute top-[38%] left-1/2 text-2xs leading-none whitespace-nowrap font-semibold"
          style={{ writingMode: "vertical-rl", transform: "translateX(-50%) rotate(180deg)" }}
        >
          {of.name}
        </span>
      )}
      <button
        type="button"
        style={{ bottom: 2 + (2 - level) * 18 }}
        className={`pointer-events-auto absolute left-0 max-w-[150px] cursor-grab touch-none truncate rounded border px-1 text-2xs leading-tight ${
          is ? "border-primary bg-row" : "border-line bg-base-100"
        }`}
        aria-label={`${of.name} at ${placeText(facts, of.from)}`}
        title={`${of.name} at ${placeText(facts, of.from)}. Drag to move it`}
        {...drag}
      >
        {of.name}
      </button>
    </div>
  );
}
