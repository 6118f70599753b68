// What the pointer does in a lane: hits are placed, selected, moved, nudged and made louder
// or softer, rolls and boxes are drawn.

import type { Hit } from "../../api/client";
import { monitor } from "../../live/monitor";
import { clamp } from "../../parts/format";
import { headY, velocityAt } from "../../parts/sticks";
import { useDrag } from "../../parts/useDrag";
import { newGesture, useProject } from "../../state/project";
import { useInfo } from "../../state/queries";
import { chosen, useSelection } from "../../state/selection";
import { roll } from "./lanePaint";
import { type Axis, type Placed, rowHeight } from "./layout";
import { type Box, hitsInBox } from "./select";

interface Drag {
  x: number;
  y: number;
  /** Where it began on the page. */
  page: { x: number; y: number };
  gesture: string;
  way: "none" | "velocity" | "move" | "nudge" | "box" | "roll" | "length";
  hit: string | null;
  /** The selected hits as they were when the drag began. */
  from: ReturnType<typeof chosen>;
}

export interface Lane {
  voice: string;
  axis: Axis;
  /** The hits on show. */
  shown: Placed[];
  /** The selected ones of them. */
  selected: ReadonlySet<string>;
  /** A step, ticks. */
  stepTicks: number;
  /** After how many ticks the lane repeats. */
  lasts: number;
  /** How much the sticks exaggerate early and late. */
  scale: number;
  /** The box that is being drawn over the rows; null when it is done. */
  onBox: (box: Box | null) => void;
}

/** Where in the lane a pointer is, px. */
export const point = (e: React.PointerEvent | React.MouseEvent) => {
  const r = e.currentTarget.getBoundingClientRect();
  return { x: e.clientX - r.left, y: e.clientY - r.top };
};

export function useLaneDrag({ voice, axis, shown, selected, stepTicks, lasts, scale, onBox }: Lane) {
  const edit = useProject((p) => p.edit);
  const set = useSelection((s) => s.set);
  const params = useInfo().data?.tables.hit;
  /** The place in the lane that belongs to a pixel, on its steps. */
  const placeAt = (x: number) => {
    const at = Math.max(Math.round(axis.at(x) / stepTicks), 0) * stepTicks;
    return at < axis.total ? at % lasts : (at - stepTicks) % lasts;
  };

  const start = (e: React.PointerEvent): Drag => {
    const { x, y } = point(e);
    const hit = hitAt(shown, axis, x, y)?.hit;
    const begun: Drag = {
      x,
      y,
      page: { x: e.clientX, y: e.clientY },
      gesture: newGesture(),
      way: "none",
      hit: hit?.id ?? null,
      from: [],
    };
    const sel = useSelection.getState();
    if (hit) {
      void monitor.strike(voice, hit.velocity);
      const ref = { voice: voice, hit: hit.id };
      if (e.shiftKey)
        set({
          hits: selected.has(hit.id)
            ? sel.hits.filter((s) => s.hit !== hit.id || s.voice !== voice)
            : [...sel.hits, ref],
        });
      else if (!selected.has(hit.id)) set({ hits: [ref] });
      set({ voice: voice, tick: hit.tick });
      return begun;
    }
    const tick = placeAt(x);
    set({ voice: voice, tick });
    if (sel.tool === "select" || e.shiftKey) {
      if (!e.shiftKey) set({ hits: [] });
      return { ...begun, way: "box" };
    }
    set({ hits: [] });
    const velocity = velocityAt(y, rowHeight);
    void monitor.strike(voice, velocity);
    if (sel.tool === "roll") {
      edit(
        [{ op: "hit.put", hits: [{ voice: voice, hit: roll(tick, velocity, stepTicks, sel.rate) }] }],
        begun.gesture,
      );
      return { ...begun, way: "roll" };
    }
    edit([{ op: "hit.add", voice: voice, tick, velocity }]);
    return begun;
  };

  const each = (d: Drag, number: string, value: (h: Hit) => number) =>
    edit(
      d.from.map(({ ref, hit }) => ({ op: "hit.set", hits: [ref], number, value: value(hit) })),
      d.gesture,
    );

  /** How many ticks the selection can go: as a group, it stops where the first would leave its lane. */
  const reach = (d: Drag, ticks: number) =>
    d.from.reduce((by, { hit }) => clamp(by, -hit.tick, lasts - stepTicks - hit.tick), ticks);

  const boxOf = (d: Drag, e: React.PointerEvent): Box => ({
    left: Math.min(d.page.x, e.clientX),
    right: Math.max(d.page.x, e.clientX),
    top: Math.min(d.page.y, e.clientY),
    bottom: Math.max(d.page.y, e.clientY),
  });

  /** How far a change may go so that a number of a hit stays in its range. */
  const room = (number: string, by: number, value: number) => {
    const p = params?.find((p) => p.id === number);
    return p ? clamp(by, p.min - value, p.max - value) : 0;
  };

  const move = (d: Drag, e: React.PointerEvent) => {
    const { x, y } = point(e);
    if (d.way === "box") {
      onBox(boxOf(d, e));
      return;
    }
    if (d.way === "roll") {
      const from = placeAt(d.x);
      const length = Math.max(Math.round((x - d.x) / axis.per / stepTicks), 1) * stepTicks;
      const hit = roll(
        from,
        velocityAt(d.y, rowHeight),
        Math.min(length, lasts - from),
        useSelection.getState().rate,
      );
      edit(
        [
          {
            op: "hit.put",
            hits: [
              {
                voice: voice,
                hit: { ...hit, roll: { ...hit.roll, velocity_to: velocityAt(y, rowHeight) } },
              },
            ],
          },
        ],
        d.gesture,
      );
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
      const by = reach(d, Math.round((x - d.x) / axis.per / stepTicks) * stepTicks);
      set({ moved: by - (by % stepTicks) });
    }
    // Velocity and nudge keep the differences between the hits, too.
    if (d.way === "velocity") {
      const by = d.from.reduce(
        (v, { hit }) => room("velocity", v, hit.velocity),
        velocityAt(y, rowHeight) - velocityAt(d.y, rowHeight),
      );
      each(d, "velocity", (h) => h.velocity + by);
    }
    if (d.way === "nudge") {
      const by = d.from.reduce(
        (n, { hit }) => room("nudge_ms", n, hit.nudge_ms),
        (x - d.x) / (axis.msPixels * scale),
      );
      each(d, "nudge_ms", (h) => h.nudge_ms + by);
    }
  };

  const end = () => {
    set({ moved: 0 });
    onBox(null);
  };

  return useDrag<Drag>({
    start,
    move,
    drop: (d, e) => {
      const sel = useSelection.getState();
      if (d.way === "move" && sel.moved !== 0) {
        edit([{ op: "hit.move", hits: sel.hits, ticks: sel.moved }]);
        set({ tick: clamp(sel.tick + sel.moved, 0, lasts - stepTicks) });
      }
      const state = useProject.getState().state;
      if (d.way === "box" && state) {
        const inside = hitsInBox(state, axis, scale, boxOf(d, e));
        const known = new Set(inside.map((i) => `${i.voice} ${i.hit}`));
        set({ hits: [...sel.hits.filter((s) => !known.has(`${s.voice} ${s.hit}`)), ...inside] });
      }
      end();
    },
    cancel: (d) => {
      if (d.way === "velocity") each(d, "velocity", (h) => h.velocity);
      if (d.way === "nudge") each(d, "nudge_ms", (h) => h.nudge_ms);
      end();
    },
  });
}

/** What is under a point: the nearest head, or a stick below its head. */
export function hitAt(shown: Placed[], axis: Axis, x: number, y: number): Placed | null {
  let best: Placed | null = null;
  let least = Number.POSITIVE_INFINITY;
  for (const p of shown) {
    const head = headY(p.hit.velocity, rowHeight);
    const d = Math.hypot(p.x - x, head - y);
    const onStick = Math.abs(axis.x(p.hit.tick) - x) < 4 && y > head;
    if ((d < 11 || onStick) && d < least) {
      best = p;
      least = d;
    }
  }
  return best;
}
