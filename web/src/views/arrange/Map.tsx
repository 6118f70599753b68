// The reference's shape above the piece, on one axis: how loud it is by bar, where sections
// seem to begin and how sure that is; "take this shape" makes sections of it.
import { useState } from "react";
import { count } from "../../parts/format";
import { useProject } from "../../state/project";
import { useActiveReference, useOutline } from "../../state/queries";
import type { Axis } from "../../time/axis";

const height = 26;

export function ReferenceMap({ axis, left }: { axis: Axis; left: number }) {
  const reference = useActiveReference();
  const edit = useProject((s) => s.edit);
  const outline = useOutline(reference?.kind === "audio");
  const [open, setOpen] = useState(false);
  if (reference?.kind !== "audio") return null;
  const shape = outline.data;
  // Its bars lie on mine, one on one.
  const x = (bar: number) => axis.x(bar * 3840);
  const families = shape?.families ?? [];
  const take = () => {
    if (!shape) return;
    edit([
      { op: "order.keep", name: "Before the shape" },
      { op: "sections.set", sections: shape.take, title: `the shape of ${reference.name}` },
    ]);
  };
  const tall = open ? 10 + families.length * 9 + height : height;
  return (
    <div className="mb-1 flex text-2xs" data-testid="reference-map">
      <div className="shrink-0 overflow-hidden pl-2.5" style={{ width: left }}>
        <button
          type="button"
          className="block w-full cursor-pointer truncate text-left"
          style={{ color: "var(--ref)" }}
          aria-expanded={open}
          title={`${reference.name}: its drums, bar by bar`}
          onClick={() => setOpen(!open)}
        >
          {open ? "▾" : "▸"} {reference.name}
        </button>
        <button
          type="button"
          className="block cursor-pointer truncate text-left text-muted underline decoration-dotted"
          disabled={!shape || shape.take.length === 0}
          title={`Make ${count(shape?.sections.length ?? 0, "section")} of it; the order that is here is kept`}
          onClick={take}
        >
          {shape ? (shape.bars.length === 0 ? "no beat found" : "take this shape") : "mapping…"}
        </button>
        {open &&
          families.map((f) => (
            <span key={f} className="block h-[9px] truncate text-2xs leading-none text-muted">
              {f.replace("_", " ")}
            </span>
          ))}
      </div>
      <svg
        width={axis.width}
        height={tall}
        className="block overflow-hidden"
        role="img"
        aria-label={
          shape
            ? `${reference.name}: ${shape.sections.map((s) => `${s.like}, ${count(s.bars, "bar")}, ${Math.round(s.certainty * 100)} % sure`).join("; ")}`
            : `The shape of ${reference.name}`
        }
      >
        {shape?.bars.map((b, i) => {
          const x0 = x(i);
          const w = x(i + 1) - x0;
          if (x0 + w < 0 || x0 > axis.width) return null;
          const h = Math.max((1 + Math.max(b.energy_db, -24) / 24) * (height - 8), 1);
          return (
            <g key={b.from_s}>
              <rect
                x={x0}
                y={height - 2 - h}
                width={Math.max(w - 0.5, 0.6)}
                height={h}
                fill="var(--ref)"
                fillOpacity={0.35}
              >
                <title>{`Bar ${i + 1} of the reference, ${b.energy_db.toFixed(1)} dB against its loudest`}</title>
              </rect>
              {open &&
                b.hits.map((n, k) =>
                  n > 0 ? (
                    <rect
                      // biome-ignore lint/suspicious/noArrayIndexKey: a family is its place
                      key={k}
                      x={x0}
                      y={height + 8 + k * 9}
                      width={Math.max(w - 0.5, 0.6)}
                      height={7}
                      fill="var(--ref)"
                      fillOpacity={Math.min(0.2 + n / 16, 0.9)}
                    />
                  ) : null,
                )}
            </g>
          );
        })}
        {shape?.sections.map((s) => (
          <g key={s.from}>
            <line
              x1={x(s.from)}
              x2={x(s.from)}
              y1={0}
              y2={tall}
              stroke="var(--ref)"
              strokeWidth={1.5}
              strokeOpacity={0.3 + 0.7 * s.certainty}
              strokeDasharray={s.certainty < 0.6 ? "3 3" : undefined}
            />
            <text x={x(s.from) + 3} y={9} className="text-2xs" fill="var(--ref)">
              {s.like}
              {s.certainty < 0.6 ? "?" : ""}
            </text>
          </g>
        ))}
      </svg>
    </div>
  );
}
