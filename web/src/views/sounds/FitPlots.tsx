import type { Schemas, Voice } from "../../api/client";
import { hue } from "../../parts/family";
import { num } from "../../parts/format";

/** What is nearest over the target, in time. */
export function Over({ soFar, voice }: { soFar: SoFar; voice: Voice }) {
  const y = (v: number) => 62 - v * 58;
  const shape = (points: [number, number][]) =>
    [
      ...points.map((q, i) => `${((i * waveWidth) / points.length).toFixed(1)},${y(q[1]).toFixed(1)}`),
      ...points
        .map((q, i) => `${((i * waveWidth) / points.length).toFixed(1)},${(y(q[0]) + 0.7).toFixed(1)}`)
        .reverse(),
    ].join(" ");
  const seconds = soFar.aim.to_s - soFar.aim.from_s;
  return (
    <figure className="rowbox m-0 px-3 pt-2 pb-1" aria-label={`Waves of ${voice.name} and its target`}>
      <svg
        viewBox={`0 0 ${waveWidth} 124`}
        preserveAspectRatio="none"
        className="h-[124px] w-full"
        aria-hidden="true"
      >
        <polygon
          points={shape(soFar.aim.points as [number, number][])}
          fill="var(--ref)"
          fillOpacity={0.45}
        />
        <polygon
          points={shape(soFar.wave.points as [number, number][])}
          fill={hue(voice.family)}
          fillOpacity={0.75}
        />
      </svg>
      <figcaption className="flex justify-between text-2xs text-muted">
        <span className="num">0</span>
        <span>
          <b className="text-ref">the target</b> behind,{" "}
          <b style={{ color: hue(voice.family) }}>what is found</b> in front
        </span>
        <span className="num">{num(seconds * 1000, 0)} ms</span>
      </figcaption>
    </figure>
  );
}

/** Third octaves of both. */
export function Bands({ soFar, voice }: { soFar: SoFar; voice: Voice }) {
  const floor = -48;
  const w = 420 / Math.max(soFar.third_octaves.length, 1);
  const h = (db: number) => Math.max(1 - db / floor, 0) * 96;
  return (
    <figure className="rowbox m-0 flex flex-col px-3 pt-2 pb-1" aria-label="Third octaves of both">
      <svg
        viewBox="0 0 420 100"
        preserveAspectRatio="none"
        className="min-h-[100px] w-full grow basis-0"
        aria-hidden="true"
      >
        {soFar.third_octaves.map((b, i) => (
          <g key={b.hz}>
            <rect
              x={i * w}
              y={100 - h(b.aim)}
              width={w - 1}
              height={h(b.aim)}
              fill="var(--ref)"
              fillOpacity={0.45}
            />
            <rect
              x={i * w + w * 0.25}
              y={100 - h(b.mine)}
              width={w * 0.5 - 1}
              height={h(b.mine)}
              fill={hue(voice.family)}
            />
          </g>
        ))}
      </svg>
      <figcaption className="num flex justify-between text-2xs text-muted">
        <span>20 Hz</span>
        <span>third octaves</span>
        <span>20 kHz</span>
      </figcaption>
    </figure>
  );
}

/** The measures of both, and what was not reached; while it is searched, how near it came. */
export function Nearness({ soFar }: { soFar: SoFar }) {
  const r = soFar.result;
  if (soFar.picks) return <Picks of={soFar.picks} />;
  if (!r) {
    const top = Math.max(...soFar.line, 1);
    const line = soFar.line
      .map((v, i) => `${(i * 300) / Math.max(soFar.line.length - 1, 1)},${(96 - (v / top) * 90).toFixed(1)}`)
      .join(" ");
    return (
      <figure className="rowbox m-0 px-3 pt-2 pb-1" aria-label="How near it came">
        <svg viewBox="0 0 300 100" preserveAspectRatio="none" className="h-[100px] w-full" aria-hidden="true">
          <polyline
            points={line}
            fill="none"
            stroke="var(--color-base-content)"
            strokeWidth={1.5}
            vectorEffect="non-scaling-stroke"
          />
        </svg>
        <figcaption className="flex justify-between text-2xs text-muted">
          <span>distance over the search</span>
          <span className="num">{num(soFar.loss_db, 2)} dB</span>
        </figcaption>
      </figure>
    );
  }
  const digits = (unit: string) => (unit === "dB" || unit === "ms" ? 1 : 0);
  const value = (v: number | null, unit: string) => (v === null ? "–" : `${num(v, digits(unit))} ${unit}`);
  return (
    <div className="rowbox flex flex-col gap-1.5 px-3 py-2 text-xs">
      <table className="w-full" aria-label="Measures">
        <thead className="text-muted">
          <tr>
            <th className="text-left font-normal">measure</th>
            <th className="text-right font-normal">found</th>
            <th className="text-right font-normal">target</th>
          </tr>
        </thead>
        <tbody className="num">
          {r.parts.map((p) => (
            <tr key={p.name}>
              <td className="font-sans">{p.name}</td>
              <td className="text-right">{value(p.mine, p.unit)}</td>
              <td className="text-right text-ref">{value(p.target, p.unit)}</td>
            </tr>
          ))}
          <tr>
            <td className="font-sans">Spectra differ by</td>
            <td className="text-right">{num(r.spectral_db, 1)} dB</td>
            <td />
          </tr>
        </tbody>
      </table>
      {r.words.length > 0 && (
        <ul className="flex flex-col gap-0.5" aria-label="What was not reached">
          {r.words.map((w) => (
            <li key={w}>{w}</li>
          ))}
        </ul>
      )}
    </div>
  );
}

/** The sounds of a combination. */
export function Picks({ of }: { of: Schemas["Combination"] }) {
  return (
    <div className="rowbox flex flex-col gap-1.5 px-3 py-2 text-xs">
      <table className="w-full" aria-label="Sounds laid over each other">
        <thead className="text-muted">
          <tr>
            <th className="text-left font-normal">sound</th>
            <th className="text-right font-normal">level</th>
            <th className="text-right font-normal">later by</th>
            <th className="text-right font-normal">between</th>
          </tr>
        </thead>
        <tbody className="num">
          {of.picks.map((p) => (
            <tr key={p.candidate}>
              <td className="font-sans">{p.name}</td>
              <td className="text-right">{num(p.gain_db, 1, true)} dB</td>
              <td className="text-right">{num(p.start_ms, 1)} ms</td>
              <td className="text-right">
                {p.low_cut_hz <= 20 && p.high_cut_hz >= 20000
                  ? "all"
                  : `${num(p.low_cut_hz, 0)}–${num(p.high_cut_hz, 0)} Hz`}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="text-muted">
        {of.explained > 0.7
          ? `${num(100 * of.explained, 0)} % of the target is these very sounds.`
          : "None of it is the very sound: their levels add up to the target's."}
      </p>
    </div>
  );
}

export type SoFar = Schemas["FitSoFar"];

export const waveWidth = 640;
