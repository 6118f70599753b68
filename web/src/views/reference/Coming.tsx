// A file that is still being listened to: what has been heard so far, over its
// whole length. It fills up as stages end.
import type { ReactNode } from "react";
import type { Schemas } from "../../api/client";
import { stages } from "../../parts/Bring";
import { familyName, Glyph, hue } from "../../parts/family";
import { num } from "../../parts/format";
import { useImport } from "../../parts/importing";
import { useWidth } from "../../parts/useWidth";
import { useInfo } from "../../state/queries";
import { labelWidth } from "./HitRow";
import { Bands } from "./Plots";

const rowHeight = 42;

export function Coming({ soFar }: { soFar: Schemas["SoFar"] }) {
  const [ref, fullWidth] = useWidth<HTMLDivElement>();
  const families = useInfo().data?.families ?? [];
  const stage = useImport((i) => i.job?.stage ?? "");
  const { analysis: a, wave } = soFar;
  const width = Math.max(fullWidth - labelWidth - 12, 10);
  const x = (s: number) => (s / Math.max(a.duration_s, 0.01)) * width;
  const present = families.filter((f) => a.hits.some((h) => h.family === f));
  const bars = a.downbeats_s.length <= width / 4 ? a.downbeats_s : [];
  const lines = (height: number) =>
    bars.map((t) => (
      <line key={t} x1={x(t)} x2={x(t)} y1={0} y2={height} stroke="var(--late)" opacity={0.45} />
    ));
  const y = (v: number) => 40 - v * 37;
  const tops = wave.points.map(
    (p, i) => `${((i / wave.points.length) * width).toFixed(1)},${y(p[1] ?? 0).toFixed(1)}`,
  );
  const bottoms = wave.points
    .map((p, i) => `${((i / wave.points.length) * width).toFixed(1)},${y(p[0] ?? 0).toFixed(1)}`)
    .reverse();
  return (
    <>
      <main className="flex min-w-0 grow flex-col overflow-y-auto px-4 py-3" aria-label="Importing">
        <div className="mb-3 flex items-baseline gap-3">
          <h1 className="text-2xl">{soFar.name}</h1>
          <span className="text-sm text-muted">
            coming in; {stages[stage] ?? stage}. You can go on with other views meanwhile.
          </span>
        </div>
        <div ref={ref} className="flex flex-col gap-1">
          {fullWidth > 0 && (
            <>
              <Row label="Whole file">
                <svg width={width} height={80} role="img" aria-label="Wave of the whole file">
                  <polygon
                    points={[...tops, ...bottoms].join(" ")}
                    fill="color-mix(in oklab, var(--color-base-content) 62%, transparent)"
                  />
                  {lines(80)}
                </svg>
              </Row>
              {present.map((f) => {
                const hits = a.hits.filter((h) => h.family === f);
                return (
                  <Row key={f} label={familyName(f)} glyph={<Glyph family={f} />} count={hits.length}>
                    <svg
                      width={width}
                      height={rowHeight}
                      role="img"
                      aria-label={`${hits.length} ${hits.length === 1 ? "hit" : "hits"} so far`}
                    >
                      {lines(rowHeight)}
                      <path
                        d={hits
                          .map(
                            (h) =>
                              `M${x(h.time_s).toFixed(1)} ${rowHeight - 3}v${-(h.velocity / 127) * (rowHeight - 7)}`,
                          )
                          .join("")}
                        stroke={hue(f)}
                        strokeWidth={a.hits.length > width ? 1 : 2}
                      />
                    </svg>
                  </Row>
                );
              })}
              {present.length === 0 && <p className="px-3 py-4 text-muted">Its hits come next.</p>}
              {a.third_octaves.length > 0 && (
                <section className="mt-3" aria-label="Spectrum">
                  <h2 className="mb-1 text-lg">Average spectrum, third octaves</h2>
                  <Bands analysis={a} width={fullWidth} height={150} />
                </section>
              )}
            </>
          )}
        </div>
      </main>
      <aside
        className="w-[268px] shrink-0 overflow-y-auto border-l border-line bg-base-200 px-4 py-3"
        aria-label="What is there so far"
      >
        <h2 className="mb-2 text-xl">So far</h2>
        <p className="mb-2">
          <span className="num">{num(a.duration_s, 1)} s</span>
          {a.hits.length === 0 ? "; hits and the beat come later." : `, ${a.hits.length} hits`}
          {a.hits.length > 0 && a.tempo_bpm === null ? "; the beat comes later." : ""}
        </p>
        <ul className="flex flex-col gap-1 leading-snug">
          {a.tempo_bpm !== null &&
            a.facts
              .filter((f) => f.text !== "")
              .map((f) => (
                <li key={`${f.id} ${f.family}`} className="flex gap-2">
                  <span className="w-[13px] shrink-0 pt-1">
                    {f.family && <Glyph family={f.family} size={13} />}
                  </span>
                  <span>{f.text}</span>
                </li>
              ))}
        </ul>
      </aside>
    </>
  );
}

function Row(p: { label: string; glyph?: ReactNode; count?: number; children: ReactNode }) {
  return (
    <div className="flex rounded-lg bg-base-200">
      <div className="flex shrink-0 items-center gap-2.5 pl-3" style={{ width: labelWidth }}>
        {p.glyph}
        <span>
          <span className="block font-semibold leading-tight">{p.label}</span>
          {p.count !== undefined && (
            <span className="num block text-xs leading-tight text-muted">{p.count}</span>
          )}
        </span>
      </div>
      {p.children}
    </div>
  );
}
