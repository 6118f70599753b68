// The row of one voice: its name, its grid, its hits as sticks and the
// reference's behind them.
import { memo, useState } from "react";
import type { Edit, Hit, Schemas, State, Voice } from "../../api/client";
import { monitor } from "../../live/monitor";
import { Glyph, hue } from "../../parts/family";
import { clamp, num, position } from "../../parts/format";
import { headY, Stick, velocityAt } from "../../parts/Stick";
import { useDrag } from "../../parts/useDrag";
import { newGesture, useProject } from "../../state/project";
import { type Axis, labelWidth, rowHeight, type Shadow } from "./layout";
import { chosen, copy, laneOf, paste, repeat, useSelection } from "./selection";

interface Drag {
  x: number;
  y: number;
  gesture: string;
  way: "none" | "velocity" | "move" | "nudge" | "box";
  hit: string | null;
  /** The selected hits as they were when the drag began. */
  from: ReturnType<typeof chosen>;
}

/** Steps, beats and bars behind the hits. */
const Grid = memo(function Grid({ axis }: { axis: Axis }) {
  const lines = Array.from({ length: axis.total / axis.stepTicks + 1 }, (_, i) => i * axis.stepTicks);
  const dense = axis.x(axis.stepTicks) - axis.x(0) < 7;
  return (
    <>
      {lines.map((t) => {
        const bar = t % axis.barTicks === 0;
        const beat = t % axis.beatTicks === 0;
        if (dense && !beat) return null;
        return (
          <line
            key={t}
            x1={axis.x(t)}
            x2={axis.x(t)}
            y1={5}
            y2={rowHeight - 5}
            stroke={bar ? "var(--color-base-content)" : beat ? "var(--line-strong)" : "var(--line)"}
            strokeWidth={bar ? 1.3 : 1}
            opacity={bar ? 0.65 : 1}
          />
        );
      })}
      <line
        x1={axis.x(0)}
        x2={axis.x(axis.total)}
        y1={rowHeight - 5}
        y2={rowHeight - 5}
        stroke="var(--line)"
      />
    </>
  );
});

/** Drawn again only when something of the row changes. */
export const LaneRow = memo(function LaneRow({
  hits,
  falls,
  voice,
  lean,
  beats,
  axis,
  scale,
  shadows,
}: {
  hits: Hit[];
  /** Where each of the hits falls. */
  falls: Schemas["Fall"][];
  voice: Voice;
  lean: number;
  /** Of a bar. */
  beats: number;
  axis: Axis;
  scale: number;
  shadows: Shadow[];
}) {
  const edit = useProject((p) => p.edit);
  const sel = useSelection();
  const [moved, setMoved] = useState(0);
  const [box, setBox] = useState<[number, number] | null>(null);
  const selected = new Set(sel.hits.flatMap((s) => (s.voice === voice.id ? [s.hit] : [])));
  const isSelected = (id: string) => selected.has(id);
  const active = sel.voice === voice.id;
  const headsX = hits.map((h, i) => axis.x(h.tick) + (falls[i]?.offset_ms ?? 0) * axis.msPixels * scale);

  const point = (e: React.PointerEvent) => {
    const r = e.currentTarget.getBoundingClientRect();
    return { x: e.clientX - r.left, y: e.clientY - r.top };
  };

  const under = (x: number, y: number) =>
    hits
      .map((h, i) => ({ h, d: Math.hypot((headsX[i] ?? 0) - x, headY(h.velocity, rowHeight) - y) }))
      .filter(({ h, d }) => d < 11 || (Math.abs(axis.x(h.tick) - x) < 4 && y > headY(h.velocity, rowHeight)))
      .sort((a, b) => a.d - b.d)[0]?.h ?? null;

  const start = (e: React.PointerEvent): Drag => {
    const { x, y } = point(e);
    const hit = under(x, y);
    const begun: Drag = { x, y, gesture: newGesture(), way: "none", hit: hit?.id ?? null, from: [] };
    if (hit) {
      void monitor.strike(voice.id, hit.velocity);
      const ref = { voice: voice.id, hit: hit.id };
      if (e.shiftKey)
        sel.set({
          hits: isSelected(hit.id)
            ? sel.hits.filter((s) => s.hit !== hit.id || s.voice !== voice.id)
            : [...sel.hits, ref],
        });
      else if (!isSelected(hit.id)) sel.set({ hits: [ref] });
      sel.set({ voice: voice.id, tick: hit.tick });
      return begun;
    }
    const tick = axis.step(x);
    sel.set({ voice: voice.id, tick });
    if (sel.tool === "select" || e.shiftKey) {
      if (!e.shiftKey) sel.set({ hits: [] });
      return { ...begun, way: "box" };
    }
    sel.set({ hits: [] });
    const velocity = velocityAt(y, rowHeight);
    void monitor.strike(voice.id, velocity);
    edit([{ op: "hit.add", voice: voice.id, tick, velocity }]);
    return begun;
  };

  const each = (d: Drag, number: string, value: (h: Hit) => number) =>
    edit(
      d.from.map(({ ref, hit }) => ({ op: "hit.set", hits: [ref], number, value: value(hit) })),
      d.gesture,
    );

  /** How many ticks the selection can go: as a group, it stops where the first would leave its lane. */
  const reach = (d: Drag, ticks: number) =>
    d.from.reduce((by, { hit }) => clamp(by, -hit.tick, axis.total - axis.stepTicks - hit.tick), ticks);

  const move = (d: Drag, e: React.PointerEvent) => {
    const { x, y } = point(e);
    if (d.way === "box") {
      setBox([Math.min(d.x, x), Math.max(d.x, x)]);
      return;
    }
    if (!d.hit) return;
    if (d.way === "none") {
      if (Math.hypot(x - d.x, y - d.y) < 4) return;
      d.way = Math.abs(y - d.y) > Math.abs(x - d.x) ? "velocity" : e.altKey ? "nudge" : "move";
      const state = useProject.getState().state;
      if (state) d.from = chosen(state, useSelection.getState().hits);
    }
    if (d.way === "move") {
      const steps = Math.round((x - d.x) / (axis.x(axis.stepTicks) - axis.x(0)));
      const by = reach(d, steps * axis.stepTicks);
      setMoved(by - (by % axis.stepTicks));
    }
    // Velocity and nudge keep the differences between the hits, too.
    if (d.way === "velocity") {
      const by = d.from.reduce(
        (v, { hit }) => clamp(v, 1 - hit.velocity, 127 - hit.velocity),
        velocityAt(y, rowHeight) - velocityAt(d.y, rowHeight),
      );
      each(d, "velocity", (h) => h.velocity + by);
    }
    if (d.way === "nudge") {
      const by = d.from.reduce(
        (n, { hit }) => clamp(n, -200 - hit.nudge_ms, 200 - hit.nudge_ms),
        (x - d.x) / (axis.msPixels * scale),
      );
      each(d, "nudge_ms", (h) => h.nudge_ms + by);
    }
  };

  const end = () => {
    setMoved(0);
    setBox(null);
  };

  const drag = useDrag<Drag>({
    start,
    move,
    drop: (d) => {
      if (d.way === "move" && moved !== 0) {
        edit([{ op: "hit.move", hits: sel.hits, ticks: moved }]);
        sel.set({ tick: clamp(sel.tick + moved, 0, axis.total - axis.stepTicks) });
      }
      if (d.way === "box" && box) {
        const inside = hits
          .filter((_, i) => (headsX[i] ?? 0) >= box[0] && (headsX[i] ?? 0) <= box[1])
          .map((h) => ({ voice: voice.id, hit: h.id }));
        sel.set({
          hits: [
            ...sel.hits.filter((s) => !inside.some((i) => i.voice === s.voice && i.hit === s.hit)),
            ...inside,
          ],
        });
      }
      end();
    },
    cancel: (d) => {
      if (d.way === "velocity") each(d, "velocity", (h) => h.velocity);
      if (d.way === "nudge") each(d, "nudge_ms", (h) => h.nudge_ms);
      end();
    },
  });

  const keys = (e: React.KeyboardEvent) => {
    if (!isLaneKey(e)) return;
    e.preventDefault();
    e.stopPropagation();
    // Keys come faster than answers: each acts on what the ones before made.
    void useProject
      .getState()
      .answered()
      .then(() => {
        const now = useProject.getState().state;
        if (now) edit(laneKey(e, now, voice.id, axis));
      });
  };

  const bars = axis.total / axis.barTicks;
  return (
    <div className={`flex rounded-lg ${active ? "bg-row" : "bg-base-200"}`} style={{ height: rowHeight }}>
      <button
        type="button"
        className="flex shrink-0 cursor-pointer items-center gap-2.5 rounded-l-lg pl-3 text-left hover:bg-base-300"
        style={{ width: labelWidth }}
        title={`Play ${voice.name}`}
        onClick={() => {
          sel.set({ voice: voice.id });
          void monitor.strike(voice.id);
        }}
      >
        <Glyph family={voice.family} />
        <span className="min-w-0">
          <span className="block truncate font-semibold">{voice.name}</span>
          <span className="num block text-[11px] text-muted">
            {voice.mute ? "muted" : `${num(lean, 1, true)} ms`}
          </span>
        </span>
      </button>
      {/* biome-ignore lint/a11y/useSemanticElements: a lane of hits on a time axis has no element of its own */}
      <div
        className="relative grow rounded-r-lg"
        role="group"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: the lane takes keys: cursor, place, velocity, nudge
        tabIndex={0}
        aria-label={`${voice.name} lane, ${hits.length} hits. Arrow keys move, Enter places or removes`}
        data-lane={voice.id}
        onKeyDown={keys}
        onFocus={() => sel.voice !== voice.id && sel.set({ voice: voice.id })}
      >
        <svg
          width={axis.width}
          height={rowHeight}
          className="touch-none overflow-visible"
          {...drag}
          role="img"
          aria-label={`${hits.length} hits over ${bars} bars`}
        >
          <rect width={axis.width} height={rowHeight} fill="transparent" />
          {active && (
            <rect
              x={axis.x(sel.tick) - 7}
              y={3}
              width={14}
              height={rowHeight - 6}
              rx={4}
              fill="var(--color-base-content)"
              opacity={0.1}
            />
          )}
          <Grid axis={axis} />
          {box && (
            <rect
              x={box[0]}
              y={2}
              width={box[1] - box[0]}
              height={rowHeight - 4}
              fill="var(--ref)"
              opacity={0.15}
            />
          )}
          {shadows.map((s) => (
            <Stick
              key={`${s.tick}-${s.offset}`}
              hollow
              x={axis.x(s.tick)}
              lean={s.offset * axis.msPixels * scale}
              velocity={s.velocity}
              height={rowHeight}
              colour=""
              offset={s.offset}
            />
          ))}
          {hits.map((h, i) => {
            const offset = falls[i]?.offset_ms ?? 0;
            const by = isSelected(h.id) ? moved : 0;
            return (
              <Stick
                key={h.id}
                x={axis.x(clamp(h.tick + by, 0, axis.total - 1))}
                lean={offset * axis.msPixels * scale}
                velocity={h.velocity}
                height={rowHeight}
                colour={hue(voice.family)}
                offset={offset}
                selected={isSelected(h.id)}
                faint={voice.mute}
                title={`${position(h.tick, beats)}  ${num(offset, 1, true)} ms  velocity ${h.velocity}`}
              />
            );
          })}
        </svg>
      </div>
    </div>
  );
});

/** Whether a lane takes this key. */
function isLaneKey(e: React.KeyboardEvent): boolean {
  const key = e.key.toLowerCase();
  if (e.ctrlKey || e.metaKey) return ["arrowleft", "arrowright", "c", "v", "d"].includes(key);
  if (e.altKey) return ["arrowleft", "arrowright"].includes(key);
  return [
    "arrowleft",
    "arrowright",
    "arrowup",
    "arrowdown",
    "enter",
    "delete",
    "backspace",
    "a",
    "p",
  ].includes(key);
}

/** The edits that a key asks for on a lane; the cursor moves at once. */
function laneKey(e: React.KeyboardEvent, state: State, voice: string, axis: Axis): Edit[] {
  const sel = useSelection.getState();
  const hits = laneOf(state, voice);
  const at = hits.find((h) => h.tick === sel.tick);
  const picked = sel.hits.length > 0 ? sel.hits : at ? [{ voice, hit: at.id }] : [];
  const each = (number: string, by: number): Edit[] =>
    picked.length > 0 ? [{ op: "hit.by", hits: picked, number, by }] : [];
  const mod = e.ctrlKey || e.metaKey;
  const sideways = e.key === "ArrowLeft" ? -1 : 1;
  const upwards = e.key === "ArrowUp" ? 1 : -1;
  switch (e.key.toLowerCase()) {
    case "arrowleft":
    case "arrowright": {
      if (e.altKey) return each("nudge_ms", sideways * (e.shiftKey ? 0.2 : 1));
      if (mod) {
        sel.set({ tick: clamp(sel.tick + sideways * axis.stepTicks, 0, axis.total - axis.stepTicks) });
        return picked.length > 0 ? [{ op: "hit.move", hits: picked, ticks: sideways * axis.stepTicks }] : [];
      }
      const tick = (sel.tick + sideways * axis.stepTicks + axis.total) % axis.total;
      const there = hits.find((h) => h.tick === tick);
      const one = there ? [{ voice, hit: there.id }] : [];
      const others = sel.hits.filter((s) => s.voice !== voice || s.hit !== there?.id);
      sel.set({ voice, tick, hits: e.shiftKey ? [...others, ...one] : one });
      return [];
    }
    case "arrowup":
    case "arrowdown":
      return each("velocity", upwards * (e.shiftKey ? 1 : 5));
    case "enter":
      if (at) return [{ op: "hit.delete", hits: [{ voice, hit: at.id }] }];
      void monitor.strike(voice, 100);
      return [{ op: "hit.add", voice, tick: sel.tick }];
    case "delete":
    case "backspace":
      sel.set({ hits: [] });
      return picked.length > 0 ? [{ op: "hit.delete", hits: picked }] : [];
    case "a":
      sel.set({ hits: hits.map((h) => ({ voice, hit: h.id })) });
      return [];
    case "c":
      copy(state);
      return [];
    case "v":
      return paste(sel.tick, axis.total);
    case "d":
      return repeat(state, axis.barTicks, axis.total);
    default:
      void monitor.strike(voice);
      return [];
  }
}
