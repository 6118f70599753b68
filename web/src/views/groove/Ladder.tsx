// The notes of a row on a ladder of the project's key: place, pitch, length, glides and
// falls.
import { useCallback, useMemo, useState } from "react";
import type { Hit, State, Voice } from "../../api/client";
import { monitor } from "../../live/monitor";
import { Canvas, colourOf } from "../../parts/Canvas";
import { hue } from "../../parts/family";
import { clamp, noteNames, num } from "../../parts/format";
import { paintGrid } from "../../parts/sticks";
import { useDrag } from "../../parts/useDrag";
import { newGesture, useProject } from "../../state/project";
import { useRoot } from "../../state/queries";
import { useSelection } from "../../state/selection";
import { ppq } from "../../state/ticks";
import { type Axis, gridLines, labelWidth } from "./layout";
import { inKey } from "./notes";
import { usePanels } from "./panels";

const rungHeight = 17;

interface Drag {
  way: "new" | "move" | "length";
  hit: Hit | null;
  x: number;
  y: number;
  gesture: string;
  /** The place and pitch that a new note begins at. */
  tick: number;
  note: number;
}

/** The notes on show, the highest first: those of the key around what is there, and what lies outside it. */
export function rungs(notes: number[], root: number, has: (note: number) => boolean): number[] {
  const low = Math.min(root - 1, ...notes) - 1;
  const high = Math.max(root + 12, ...notes) + 1;
  const out: number[] = [];
  for (let n = high; n >= low; n--) if (has(n) || notes.includes(n)) out.push(n);
  return out;
}

export function Ladder({
  state,
  voice,
  axis,
  lasts,
}: {
  state: State;
  voice: Voice;
  axis: Axis;
  lasts: number;
}) {
  const edit = useProject((p) => p.edit);
  const set = useSelection((s) => s.set);
  const picked = useSelection((s) => s.hits);
  const snap = useSelection((s) => s.snap);
  const close = usePanels((p) => p.set);
  const [preview, setPreview] = useState<{ id: string; tick: number; note: number; length: number } | null>(
    null,
  );
  const doc = state.document;
  const lane = doc.groove.lanes.find((l) => l.voice === voice.id);
  const hits = useMemo(() => lane?.hits ?? [], [lane]);
  const root = useRoot(voice.id);
  const has = useMemo(() => inKey(doc.key), [doc.key]);
  const notes = useMemo(() => hits.map((h) => Math.round(root + h.semitones)), [hits, root]);
  const ladder = useMemo(() => rungs(notes, root, has), [notes, root, has]);
  const height = ladder.length * rungHeight + 4;
  const stepTicks = snap > 0 ? ppq / snap : lane?.grid ? ppq / lane.grid : axis.stepTicks;
  const yOf = (note: number) => {
    const i = ladder.indexOf(note);
    return Math.max(i, 0) * rungHeight + 2;
  };
  const noteAt = (y: number) => ladder[clamp(Math.floor((y - 2) / rungHeight), 0, ladder.length - 1)] ?? root;
  const tickAt = (x: number) =>
    clamp(Math.floor(axis.at(x) / stepTicks + 1e-6) * stepTicks, 0, lasts - stepTicks);
  const lengthOf = (h: Hit) => h.length_ticks || stepTicks;
  const find = (x: number, y: number): { hit: Hit; edge: boolean } | null => {
    const note = noteAt(y);
    for (const h of hits) {
      if (Math.round(root + h.semitones) !== note) continue;
      const from = axis.x(h.tick);
      const to = axis.x(h.tick + lengthOf(h));
      if (x >= from - 2 && x <= Math.max(to, from + 10) + 3)
        return { hit: h, edge: x > to - 7 && to - from > 12 };
    }
    return null;
  };
  const point = (e: React.PointerEvent) => {
    const r = e.currentTarget.getBoundingClientRect();
    return { x: e.clientX - r.left, y: e.clientY - r.top };
  };
  const drag = useDrag<Drag>({
    start: (e) => {
      const { x, y } = point(e);
      const under = find(x, y);
      const gesture = newGesture();
      const note = noteAt(y);
      if (under) {
        set({ voice: voice.id, tick: under.hit.tick, hits: [{ voice: voice.id, hit: under.hit.id }] });
        void monitor.strike(voice.id, under.hit.velocity);
        return {
          way: under.edge ? "length" : "move",
          hit: under.hit,
          x,
          y,
          gesture,
          tick: under.hit.tick,
          note,
        };
      }
      const tick = tickAt(x);
      void monitor.strike(voice.id);
      edit(
        [{ op: "hit.put", hits: [{ voice: voice.id, hit: newNote(tick, note - root, stepTicks) }] }],
        gesture,
      );
      set({ voice: voice.id, tick });
      return { way: "new", hit: null, x, y, gesture, tick, note };
    },
    move: (d, e) => {
      const { x, y } = point(e);
      if (d.way === "new") {
        const length = Math.max(Math.round((x - d.x) / axis.per / stepTicks), 1) * stepTicks;
        edit(
          [
            {
              op: "hit.put",
              hits: [
                { voice: voice.id, hit: newNote(d.tick, d.note - root, Math.min(length, lasts - d.tick)) },
              ],
            },
          ],
          d.gesture,
        );
      } else if (d.hit && d.way === "length") {
        const length =
          Math.max(Math.round((lengthOf(d.hit) + (x - d.x) / axis.per) / stepTicks), 1) * stepTicks;
        edit(
          [
            {
              op: "hit.set",
              hits: [{ voice: voice.id, hit: d.hit.id }],
              number: "length_ticks",
              value: Math.min(length, lasts - d.hit.tick),
            },
          ],
          d.gesture,
        );
      } else if (d.hit) {
        const tick = clamp(
          d.hit.tick + Math.round((x - d.x) / axis.per / stepTicks) * stepTicks,
          0,
          lasts - stepTicks,
        );
        setPreview({ id: d.hit.id, tick, note: noteAt(y), length: lengthOf(d.hit) });
      }
    },
    drop: (d) => {
      if (d.way === "move" && d.hit && preview) {
        const ref = { voice: voice.id, hit: d.hit.id };
        const by = preview.note - Math.round(root + d.hit.semitones);
        const ticks = preview.tick - d.hit.tick;
        if (by !== 0 || ticks !== 0)
          edit([
            ...(by !== 0
              ? [{ op: "hit.set" as const, hits: [ref], number: "semitones", value: d.hit.semitones + by }]
              : []),
            ...(ticks !== 0 ? [{ op: "hit.move" as const, hits: [ref], ticks }] : []),
          ]);
      }
      setPreview(null);
    },
    cancel: () => setPreview(null),
  });

  const lines = useMemo(() => gridLines(axis, stepTicks), [axis, stepTicks]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: yOf and lengthOf are of what stands here
  const paint = useCallback(
    (pen: CanvasRenderingContext2D) => {
      for (const [i, note] of ladder.entries()) {
        const outside = !has(note);
        pen.fillStyle = colourOf(outside ? "var(--color-base-300)" : "var(--color-base-100)");
        pen.globalAlpha = outside ? 0.7 : i % 2 === 0 ? 0.75 : 0.35;
        pen.fillRect(0, i * rungHeight + 2, axis.width, rungHeight - 1);
      }
      pen.globalAlpha = 1;
      paintGrid(pen, lines, height);
      const chosen = new Set(picked.filter((p) => p.voice === voice.id).map((p) => p.hit));
      const sorted = [...hits].sort((a, b) => a.tick - b.tick);
      for (const [i, raw] of sorted.entries()) {
        const p = preview?.id === raw.id ? preview : null;
        const tick = p?.tick ?? raw.tick;
        const note = p?.note ?? Math.round(root + raw.semitones);
        const long = raw.length_ticks ? raw.length_ticks : stepTicks;
        const x = axis.x(tick);
        const w = Math.max(long * axis.per, 6);
        const y = yOf(note);
        pen.fillStyle = colourOf(hue(voice.family));
        pen.globalAlpha = 0.35 + (raw.velocity / 127) * 0.6;
        pen.beginPath();
        if (raw.cut || !raw.length_ticks) pen.roundRect(x, y + 2, w, rungHeight - 5, 3);
        else {
          pen.moveTo(x, y + 2);
          pen.lineTo(x + w, y + rungHeight / 2 - 2);
          pen.lineTo(x + w, y + rungHeight / 2 + 1);
          pen.lineTo(x, y + rungHeight - 3);
        }
        pen.fill();
        pen.globalAlpha = 1;
        if (raw.cut) {
          pen.fillStyle = colourOf("var(--color-primary)");
          pen.fillRect(x + w - 1.5, y, 2.5, rungHeight - 1);
        }
        if (chosen.has(raw.id)) {
          pen.strokeStyle = colourOf("var(--color-base-content)");
          pen.lineWidth = 1.6;
          pen.strokeRect(x - 1, y + 1, w + 2, rungHeight - 3);
        }
        if (!has(note)) {
          pen.font = "10px var(--font-num, monospace)";
          pen.fillStyle = colourOf("var(--color-error)");
          pen.fillText("outside the key", x + w + 4, y + rungHeight - 6);
        }
        pen.strokeStyle = colourOf(hue(voice.family));
        pen.lineWidth = 1.8;
        const next = sorted[i + 1];
        // A note that has ended before the next one begins has nothing to glide from.
        if ((raw.glide_ms ?? 0) > 0 && next && (!raw.length_ticks || next.tick <= tick + long)) {
          const toY = yOf(Math.round(root + next.semitones)) + rungHeight / 2;
          const to = axis.x(next.tick);
          pen.beginPath();
          pen.moveTo(Math.min(x + w, to), y + rungHeight / 2);
          const end = to + (raw.glide_ms ?? 0) * axis.msPixels;
          pen.bezierCurveTo(to, y + rungHeight / 2, to, toY, end, toY);
          pen.stroke();
        }
        if ((raw.fall_st ?? 0) !== 0 && (raw.fall_ms ?? 0) > 0) {
          const fromY = clamp(y + rungHeight / 2 - (raw.fall_st ?? 0) * (rungHeight * 0.6), 4, height - 4);
          pen.setLineDash([4, 3]);
          pen.beginPath();
          pen.moveTo(x, fromY);
          pen.quadraticCurveTo(
            x + 6,
            y + rungHeight / 2,
            x + (raw.fall_ms ?? 0) * axis.msPixels,
            y + rungHeight / 2,
          );
          pen.stroke();
          pen.setLineDash([]);
        }
      }
    },
    [ladder, has, axis, lines, height, picked, hits, preview, root, stepTicks, voice],
  );
  return (
    <section className="flex rounded-lg bg-row" aria-label={`Notes of ${voice.name}`}>
      <div className="relative shrink-0" style={{ width: labelWidth, height }}>
        <div className="pt-1 pl-3">
          <span className="block truncate font-semibold">{voice.name}</span>
          <span className="block text-2xs text-muted">{doc.key || "no key"}</span>
          <button
            type="button"
            className="cursor-pointer text-2xs text-muted underline decoration-dotted"
            aria-label="Close the notes"
            onClick={() => close({ ladder: "" })}
          >
            close
          </button>
        </div>
        {ladder.map((n, i) => (
          <span
            key={n}
            className={`num absolute right-1.5 text-2xs ${n === root ? "font-semibold" : "text-muted"}`}
            style={{ top: i * rungHeight + 2, lineHeight: `${rungHeight - 1}px` }}
          >
            {noteNames[((n % 12) + 12) % 12]}
            {Math.floor(n / 12) - 1}
          </span>
        ))}
      </div>
      <Canvas
        width={axis.width}
        height={height}
        paint={paint}
        className="touch-none rounded-r-lg"
        data-ladder={voice.id}
        title="Click places a note, drag moves it, its end makes it longer; double click takes it away"
        {...drag}
        onDoubleClick={(e) => {
          const r = e.currentTarget.getBoundingClientRect();
          const under = find(e.clientX - r.left, e.clientY - r.top);
          if (under) edit([{ op: "hit.delete", hits: [{ voice: voice.id, hit: under.hit.id }] }]);
        }}
      />
      <ul className="sr-only" aria-label={`Notes of ${voice.name} in words`}>
        {hits.slice(0, 200).map((h) => {
          const n = Math.round(root + h.semitones);
          return (
            <li key={h.id}>
              {noteNames[((n % 12) + 12) % 12]}
              {Math.floor(n / 12) - 1} at tick {h.tick}, {num(lengthOf(h), 0)} ticks
            </li>
          );
        })}
      </ul>
    </section>
  );
}

const newNote = (tick: number, semitones: number, length: number): Hit => ({
  id: "",
  tick,
  velocity: 110,
  nudge_ms: 0,
  semitones,
  length_ticks: Math.round(length),
  cut: true,
});
