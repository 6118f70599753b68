import { useState } from "react";
import type { Schemas } from "../../api/client";
import { num } from "../../parts/format";
import { useDrag } from "../../parts/useDrag";
import { useProject } from "../../state/project";

/** The drum's wave: what is known dark, what is guessed pale. */
export type Drum = Schemas["DrumSound"];

const waveWidth = 300;
const drawn = 400; // ms of a drum that are drawn

export function DrumWave({ drum, dry }: { drum: Drum; dry: boolean }) {
  const points = (dry ? drum.dry_wave : drum.wave).points as [number, number][];
  const peak = Math.max(...points.map((q) => Math.max(Math.abs(q[0]), Math.abs(q[1]))), 1e-6);
  const y = (v: number) => 34 - (v / peak) * 31;
  const known = Math.min(drum.known.to_ms, drawn);
  const edge = (known / drawn) * points.length;
  const shape = (from: number, to: number) => {
    const part = points.slice(from, to);
    return [
      ...part.map((q, i) => `${((from + i) * waveWidth) / points.length},${y(q[1]).toFixed(1)}`),
      ...part
        .map((q, i) => `${((from + i) * waveWidth) / points.length},${(y(q[0]) + 0.7).toFixed(1)}`)
        .reverse(),
    ].join(" ");
  };
  const x = (known / drawn) * waveWidth;
  return (
    <figure className="m-0" aria-label={`Wave of ${drum.name}, known to ${num(known, 0)} ms`}>
      <svg
        viewBox={`0 0 ${waveWidth} 68`}
        preserveAspectRatio="none"
        className="h-[60px] w-full"
        aria-hidden="true"
      >
        <polygon points={shape(0, Math.ceil(edge))} fill="var(--ref)" />
        <polygon points={shape(Math.floor(edge), points.length)} fill="var(--ref)" fillOpacity={0.32} />
        {known < drawn && (
          <line
            x1={x}
            x2={x}
            y1={0}
            y2={68}
            stroke="var(--line-strong)"
            strokeDasharray="3 3"
            vectorEffect="non-scaling-stroke"
          />
        )}
      </svg>
      <figcaption className="num flex justify-between text-2xs text-muted">
        <span>0</span>
        <span>{known > 0 ? `known to ${num(drum.known.to_ms, 0)} ms` : "a guess"}</span>
        <span>{drawn} ms</span>
      </figcaption>
    </figure>
  );
}

/**
 * The strokes as small sticks over the recording. A click leaves the nearest one out or takes
 * it back, a drag all under it; arrow keys go from one to the next.
 */
export function Sticks({ drum, reference }: { drum: Drum; reference: string }) {
  const edit = useProject((s) => s.edit);
  const [at, setAt] = useState(0);
  const [drag, setDrag] = useState<{ from: number; to: number } | null>(null);
  const strokes = drum.strokes;
  const last = Math.max(...strokes.map((s) => s.time_s), 0.1);
  const x = (s: Schemas["Stroke"]) => s.time_s / last;
  const set = (some: Schemas["Stroke"][]) => {
    const out = !some[0]?.out;
    if (some.length > 0) edit(some.map((s) => ({ op: "drums.stroke" as const, reference, hit: s.hit, out })));
  };
  const part = (e: React.PointerEvent) => {
    const box = e.currentTarget.getBoundingClientRect();
    return Math.min(Math.max((e.clientX - box.left) / Math.max(box.width, 1), 0), 1);
  };
  const under = ({ from, to }: { from: number; to: number }) =>
    strokes.filter((s) => x(s) >= Math.min(from, to) && x(s) <= Math.max(from, to));
  const nearest = (place: number) =>
    strokes.reduce(
      (best, s, i) => (Math.abs(x(s) - place) < Math.abs(x(strokes[best] ?? s) - place) ? i : best),
      0,
    );
  const dragging = useDrag<{ from: number; to: number }>({
    start: (e) => ({ from: part(e), to: part(e) }),
    move: (d, e) => {
      d.to = part(e);
      setDrag({ ...d });
    },
    drop: (d) => {
      setDrag(null);
      const one = nearest(d.from);
      setAt(one);
      set(Math.abs(d.to - d.from) < 0.01 ? strokes.slice(one, one + 1) : under(d));
    },
    cancel: () => setDrag(null),
  });
  const says = (s: Schemas["Stroke"]) =>
    `${num(s.time_s, 2)} s, ${num(s.level_db, 1, true)} dB, ${num(100 * s.match, 0)} % alike: ${s.out ? "left out" : s.used ? "used" : "not used"}`;
  const id = (i: number) => `stroke-${drum.family}-${drum.group}-${i}`;
  const here = strokes[at];
  return (
    <div
      role="listbox"
      tabIndex={0}
      aria-label={`Strokes of ${drum.name}`}
      aria-multiselectable="true"
      aria-activedescendant={here && id(at)}
      title={`${here ? `${says(here)}. ` : ""}Click a stroke to leave it out or take it back, drag over several; arrow keys and Enter`}
      className="group relative mt-0.5 h-[20px] touch-none cursor-pointer"
      {...dragging}
      onKeyDown={(e) => {
        const to = { ArrowLeft: at - 1, ArrowRight: at + 1, Home: 0, End: strokes.length - 1 }[e.key];
        if (to !== undefined) {
          e.preventDefault();
          e.stopPropagation();
          setAt(Math.min(Math.max(to, 0), strokes.length - 1));
        } else if (e.key === "Enter" && here) {
          e.preventDefault();
          set([here]);
        }
      }}
    >
      {drag && (
        <span
          className="absolute inset-y-0 bg-ref/20"
          style={{
            left: `${100 * Math.min(drag.from, drag.to)}%`,
            width: `${100 * Math.abs(drag.to - drag.from)}%`,
          }}
        />
      )}
      {strokes.map((s, i) => (
        <span
          key={s.hit}
          id={id(i)}
          role="option"
          tabIndex={-1}
          aria-selected={!s.out}
          aria-label={`Stroke at ${says(s)}`}
          className={`pointer-events-none absolute bottom-0 w-[2px] ${i === at ? "outline-1 outline-offset-1 outline-transparent group-focus:outline-ref" : ""}`}
          style={{
            left: `calc(${100 * x(s)}% - ${2 * x(s)}px)`,
            height: Math.min(Math.max(5, 16 + s.level_db * 0.5), 17),
            background: s.out ? "var(--line-strong)" : "var(--ref)",
            opacity: s.out ? 0.7 : s.used ? 1 : 0.3,
            clipPath: s.out ? "inset(0 0 calc(100% - 4px) 0)" : undefined,
          }}
        />
      ))}
    </div>
  );
}

/** Third octaves: bars that are known dark, half known pale, hidden hatched. */
export function Octaves({ drum }: { drum: Drum }) {
  const bands = drum.third_octaves.filter((b) => b.hz >= 40 && b.hz <= 16500);
  const low = -48;
  const w = 170 / Math.max(bands.length, 1);
  const id = `hidden-${drum.family}-${drum.group}`;
  return (
    <figure className="m-0" aria-label={`Third octaves of ${drum.name}`}>
      <svg viewBox="0 0 170 66" className="h-[66px] w-full" aria-hidden="true">
        <defs>
          <pattern id={id} width={5} height={5} patternUnits="userSpaceOnUse">
            <path d="M0 5 L5 0" stroke="var(--line-strong)" strokeWidth={1} />
          </pattern>
        </defs>
        {bands.map((b, i) => {
          const h = Math.max(((b.db - low) / -low) * 64, 2);
          const hidden = b.known < 0.3;
          return (
            <rect
              key={b.hz}
              x={i * w + 0.6}
              width={w - 1.2}
              y={hidden ? 4 : 66 - h}
              height={hidden ? 62 : h}
              fill={hidden ? `url(#${id})` : "var(--ref)"}
              fillOpacity={hidden ? 1 : b.known < 0.7 ? 0.45 : 0.9}
            >
              <title>{`${num(b.hz, 0)} Hz: ${hidden ? "hidden" : `${num(b.db, 0)} dB`}, ${num(100 * b.known, 0)} % known`}</title>
            </rect>
          );
        })}
      </svg>
      <figcaption className="num flex justify-between text-2xs text-muted">
        <span>40 Hz</span>
        <span>16 kHz</span>
      </figcaption>
    </figure>
  );
}
