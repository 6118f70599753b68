// The row of one voice: its name, its grid, its hits as sticks and the
// reference's behind them.
import { memo, useCallback, useMemo, useState } from "react";
import type { Family, Hit, Schemas, Voice } from "../../api/client";
import { monitor, useMonitor } from "../../live/monitor";
import { Canvas, colourOf } from "../../parts/Canvas";
import { Glyph, hue } from "../../parts/family";
import { clamp, num } from "../../parts/format";
import { closest, headY, paintDense, paintGrid, paintStick, velocityAt } from "../../parts/sticks";
import { useDrag } from "../../parts/useDrag";
import { setNumber } from "../../state/numbers";
import { newGesture, useProject } from "../../state/project";
import { useInfo } from "../../state/queries";
import { chosen, useSelection } from "../../state/selection";
import { ppq } from "../../state/ticks";
import { HitList, inWords } from "./HitList";
import { laneKeys } from "./laneKeys";
import { paintDifferences, paintRounds, roll, stepsOf } from "./lanePaint";
import {
  type Axis,
  type Differs,
  gridLines,
  isDropped,
  isRoll,
  labelWidth,
  type Placed,
  placed,
  rowHeight,
  type Shadow,
} from "./layout";
import { paintExtras } from "./ornaments";
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
  lasts,
  grid,
  families,
  differs,
  onBox,
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
  /** The reference's hits, in order of their ticks. */
  shadows: Shadow[];
  /** After how many ticks the lane repeats. */
  lasts: number;
  /** Its own steps a beat; 0 is the groove's. */
  grid: number;
  /** Families by voice, for hits that strike another one's sound. */
  families: Record<string, Family>;
  /** How the row differs from the first of the other variations. */
  differs: Differs | undefined;
  /** The box that is being drawn over the rows; null when it is done. */
  onBox: (box: Box | null) => void;
}) {
  const edit = useProject((p) => p.edit);
  const set = useSelection((s) => s.set);
  const cursor = useSelection((s) => (s.voice === voice.id ? s.tick : null));
  const moved = useSelection((s) => s.moved);
  // A text, so that the row is drawn again only when its own selection changes.
  const picked = useSelection((s) => s.hits.flatMap((h) => (h.voice === voice.id ? [h.hit] : [])).join(" "));
  const selected = useMemo(() => new Set(picked === "" ? [] : picked.split(" ")), [picked]);
  const active = cursor !== null;
  const shown = useMemo(() => placed(hits, falls, axis, scale), [hits, falls, axis, scale]);
  const params = useInfo().data?.tables.hit;
  const snap = useSelection((s) => s.snap);
  const alone = useMonitor((m) => m.solo.includes(voice.id));
  const others = useMonitor((m) => m.solo.length > 0);
  const stepTicks = snap > 0 ? ppq / snap : grid > 0 ? ppq / grid : axis.stepTicks;
  /** The place in the lane that belongs to a pixel, on its steps. */
  const placeAt = (x: number) => {
    const at = Math.max(Math.round(axis.at(x) / stepTicks), 0) * stepTicks;
    return at < axis.total ? at % lasts : (at - stepTicks) % lasts;
  };
  const [under, setUnder] = useState("");

  const point = (e: React.PointerEvent) => {
    const r = e.currentTarget.getBoundingClientRect();
    return { x: e.clientX - r.left, y: e.clientY - r.top };
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
      void monitor.strike(voice.id, hit.velocity);
      const ref = { voice: voice.id, hit: hit.id };
      if (e.shiftKey)
        set({
          hits: selected.has(hit.id)
            ? sel.hits.filter((s) => s.hit !== hit.id || s.voice !== voice.id)
            : [...sel.hits, ref],
        });
      else if (!selected.has(hit.id)) set({ hits: [ref] });
      set({ voice: voice.id, tick: hit.tick });
      return begun;
    }
    const tick = placeAt(x);
    set({ voice: voice.id, tick });
    if (sel.tool === "select" || e.shiftKey) {
      if (!e.shiftKey) set({ hits: [] });
      return { ...begun, way: "box" };
    }
    set({ hits: [] });
    const velocity = velocityAt(y, rowHeight);
    void monitor.strike(voice.id, velocity);
    if (sel.tool === "roll") {
      edit(
        [{ op: "hit.put", hits: [{ voice: voice.id, hit: roll(tick, velocity, stepTicks, sel.rate) }] }],
        begun.gesture,
      );
      return { ...begun, way: "roll" };
    }
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
                voice: voice.id,
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

  const drag = useDrag<Drag>({
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

  const lines = useMemo(() => gridLines(axis, stepTicks), [axis, stepTicks]);
  const paint = useCallback(
    (pen: CanvasRenderingContext2D) => {
      if (cursor !== null) {
        pen.globalAlpha = 0.1;
        pen.fillStyle = colourOf("var(--color-base-content)");
        pen.beginPath();
        pen.roundRect(axis.x(cursor) - 7, 3, 14, rowHeight - 6, 4);
        pen.fill();
      }
      paintGrid(pen, lines, rowHeight);
      if (lasts < axis.total) paintRounds(pen, axis, lasts);
      for (const s of shadows) {
        if (s.tick < axis.from - axis.beatTicks || s.tick > axis.to + axis.beatTicks) continue;
        const lean = s.offset * axis.msPixels * scale;
        paintStick(
          pen,
          { x: axis.x(s.tick), lean, velocity: s.velocity, colour: "", offset: s.offset, hollow: true },
          rowHeight,
        );
      }
      const colour = hue(voice.family);
      paintExtras(pen, { shown, axis, scale, colour, families, beyond: lasts });
      const sticks = shown.map(({ hit, offset }) => {
        const isSelected = selected.has(hit.id);
        return {
          x: axis.x(clamp(hit.tick + (isSelected ? moved : 0), 0, axis.total - 1)),
          lean: offset * axis.msPixels * scale,
          velocity: hit.velocity,
          colour: hit.sound ? hue(families[hit.sound] ?? voice.family) : colour,
          offset,
          selected: isSelected,
          faint: voice.mute || isDropped(hit) || (others && !alone),
          small: isRoll(hit),
        };
      });
      if (differs) paintDifferences(pen, axis, shown, differs);
      if (sticks.length > axis.width / closest) paintDense(pen, sticks, colour, rowHeight);
      else for (const s of sticks) paintStick(pen, s, rowHeight);
      // What comes round again is only shown, never unrolled.
      for (let round = lasts; round < Math.min(axis.to, axis.total) && sticks.length < 400; round += lasts) {
        if (round + lasts < axis.from) continue;
        for (const { hit, offset } of placed(
          hits,
          falls,
          { ...axis, from: axis.from - round, to: axis.to - round, x: (t) => axis.x(t + round) },
          scale,
        ))
          if (hit.tick + round < axis.total)
            paintStick(
              pen,
              {
                x: axis.x(hit.tick + round),
                lean: offset * axis.msPixels * scale,
                velocity: hit.velocity,
                colour,
                offset,
                faint: true,
                small: true,
              },
              rowHeight,
            );
      }
    },
    [
      cursor,
      lines,
      shadows,
      shown,
      selected,
      moved,
      axis,
      scale,
      voice.family,
      voice.mute,
      hits,
      falls,
      lasts,
      families,
      others,
      alone,
      differs,
    ],
  );

  const keys = laneKeys(voice.id, axis, stepTicks, lasts);
  const hear = () => {
    set({ voice: voice.id });
    void monitor.strike(voice.id);
  };
  const leaning = useDrag<{ x: number; from: number; gesture: string; moved: boolean }>({
    start: (e) => ({ x: e.clientX, from: lean, gesture: newGesture(), moved: false }),
    move: (d, e) => {
      const by = (e.clientX - d.x) / (e.shiftKey ? 20 : 4);
      d.moved ||= Math.abs(e.clientX - d.x) > 3;
      if (d.moved)
        edit([setNumber(`groove/feel/${voice.id}/lean_ms`, Math.round((d.from + by) * 2) / 2)], d.gesture);
    },
    drop: () => undefined,
    cancel: (d) => d.moved && edit([setNumber(`groove/feel/${voice.id}/lean_ms`, d.from)], d.gesture),
  });
  const behind = shadows.filter((s) => s.tick >= axis.from && s.tick < axis.to).length;
  return (
    <div className={`flex rounded-lg ${active ? "bg-row" : "bg-base-200"}`} style={{ height: rowHeight }}>
      <button
        type="button"
        className="flex shrink-0 cursor-pointer items-center gap-2.5 rounded-l-lg pl-3 text-left hover:bg-base-300"
        style={{ width: labelWidth }}
        title={`Play ${voice.name}; drag along to make the whole row later or earlier`}
        onClick={hear}
        {...leaning}
      >
        <Glyph family={voice.family} />
        <span className="min-w-0">
          <span className="block truncate font-semibold">{voice.name}</span>
          <span className="num block truncate text-2xs text-muted">
            {voice.mute ? "muted" : alone ? "alone" : `${num(lean, 1, true)} ms`}
            {(lasts !== axis.total || grid > 0) && ` ${num(lasts / stepsOf(axis, grid), 0)} st`}
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
        data-behind={behind}
        onKeyDown={keys}
        onFocus={() => useSelection.getState().voice !== voice.id && set({ voice: voice.id })}
      >
        <Canvas
          width={axis.width}
          height={rowHeight}
          paint={paint}
          className="touch-none"
          title={under}
          {...drag}
          onContextMenu={(e) => {
            e.preventDefault();
            const r = e.currentTarget.getBoundingClientRect();
            const at = hitAt(shown, axis, e.clientX - r.left, e.clientY - r.top)?.hit;
            if (at) edit([{ op: "hit.delete", hits: [{ voice: voice.id, hit: at.id }] }]);
          }}
          onPointerMove={(e) => {
            drag.onPointerMove(e);
            if (e.buttons !== 0) return;
            const { x, y } = point(e);
            const at = hitAt(shown, axis, x, y);
            setUnder(at ? inWords(at, beats) : "");
          }}
        />
        <HitList shown={shown} beats={beats} selected={selected} name={voice.name} />
      </div>
    </div>
  );
});

/** What is under a point: the nearest head, or a stick below its head. */
function hitAt(shown: Placed[], axis: Axis, x: number, y: number): Placed | null {
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
