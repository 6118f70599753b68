// The shape that an effect follows: drawn once, used by any number of rows.
import { useRef } from "react";
import type { Document } from "../../api/client";
import { clamp, num } from "../../parts/format";
import { newGesture, useProject } from "../../state/project";
import type { Effect, MixRow } from "./rows";

const height = 54;
const quarter = [0, 0.15, 0.5, 0.8, 0.95, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1];

export function ShapeEditor({ row, effect, doc }: { row: MixRow; effect: Effect; doc: Document }) {
  const edit = useProject((s) => s.edit);
  const drag = useRef("");
  const shape = doc.mix.shapes.find((s) => s.id === effect.shape);
  const points = shape?.points ?? quarter;
  const draw = (e: React.PointerEvent<SVGSVGElement>) => {
    if (!shape) return;
    const r = e.currentTarget.getBoundingClientRect();
    const i = clamp(Math.floor(((e.clientX - r.left) / r.width) * points.length), 0, points.length - 1);
    const next = [...points];
    next[i] = Math.round(clamp(1 - (e.clientY - r.top) / r.height, 0, 1) * 100) / 100;
    edit([{ op: "shape.set", shape: { ...shape, points: next } }], drag.current);
  };
  const used = doc.mix.shapes.length;
  return (
    <div>
      <label className="flex items-center gap-2 py-1 text-sm">
        <span className="grow">Shape</span>
        <select
          className="press h-7 max-w-[150px] px-1.5 text-sm"
          aria-label="Shape"
          value={effect.shape ?? ""}
          onChange={(e) => {
            if (e.target.value !== "new") {
              edit([{ op: "effect.shape", row: row.row, effect: effect.id, shape: e.target.value }]);
              return;
            }
            const id = freeShape(doc);
            edit([
              { op: "shape.set", shape: { id: "", name: "", beats: shape?.beats ?? 1, points } },
              { op: "effect.shape", row: row.row, effect: effect.id, shape: id },
            ]);
          }}
        >
          <option value="">every beat</option>
          {doc.mix.shapes.map((s) => (
            <option key={s.id} value={s.id}>
              {s.name}
            </option>
          ))}
          {used < 16 && <option value="new">draw a new one…</option>}
        </select>
      </label>
      <svg
        width={236}
        height={height}
        role="img"
        aria-label={`Shape: level over ${num(shape?.beats ?? 1, 2)} beats`}
        className={`block rounded bg-base-100 ${shape ? "cursor-crosshair touch-none" : "opacity-70"}`}
        onPointerDown={(e) => {
          drag.current = newGesture();
          e.currentTarget.setPointerCapture(e.pointerId);
          draw(e);
        }}
        onPointerMove={(e) => e.buttons === 1 && draw(e)}
      >
        {points.map((v, i) => (
          <rect
            // biome-ignore lint/suspicious/noArrayIndexKey: a point is its place
            key={i}
            x={(i * 236) / points.length + 0.5}
            width={236 / points.length - 1}
            y={height - Math.max(v * (height - 2), 1)}
            height={Math.max(v * (height - 2), 1)}
            fill="var(--late)"
          />
        ))}
      </svg>
      {shape ? (
        <div className="flex items-center gap-1 pt-1 text-xs">
          <span className="grow">over</span>
          {[0.5, 1, 2, 4].map((beats) => (
            <button
              key={beats}
              type="button"
              className={`press h-6 px-1.5 text-2xs ${shape.beats === beats ? "bg-row!" : ""}`}
              aria-pressed={shape.beats === beats}
              onClick={() => edit([{ op: "shape.set", shape: { ...shape, beats } }])}
            >
              {beats === 0.5 ? "half a beat" : beats === 1 ? "a beat" : `${beats}`}
            </button>
          ))}
        </div>
      ) : (
        <p className="text-2xs text-muted">Draw a new one to change it; other rows may follow it, too.</p>
      )}
    </div>
  );
}

function freeShape(doc: Document): string {
  let n = 1;
  while (doc.mix.shapes.some((s) => s.id === `shape${n}`)) n++;
  return `shape${n}`;
}
