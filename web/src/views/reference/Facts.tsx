// Right of the reference: what was heard, in a sentence and a table.
import type { Analysis, HeardHit, Info } from "../../api/client";
import { familyName } from "../../parts/family";
import { num } from "../../parts/format";

function pm(
  value: number | null | undefined,
  err: number | null | undefined,
  unit: string,
  digits = 1,
  plus = false,
) {
  if (value === null || value === undefined) return "not enough to say";
  return `${num(value, digits, plus)}${err !== null && err !== undefined ? ` ±${num(err, digits)}` : ""} ${unit}`;
}

function sentence(a: Analysis): string {
  const parts: string[] = [];
  const cycle = a.cycle_bars;
  parts.push(
    `${cycle ? `A ${["", "one", "two", "", "four", "", "", "", "eight"][cycle] ?? cycle}-bar pattern` : "A pattern"} at ${num(a.tempo_bpm, 2)} BPM`,
  );
  const swing = a.feel?.swing_percent;
  if (swing !== null && swing !== undefined) {
    parts.push(
      swing > 51 ? `${a.feel?.pair === 8 ? "eighths" : "sixteenths"} swung ${num(swing)} %` : "straight",
    );
  }
  const text = [`${parts.join(", ")}.`];
  for (const [family, v] of Object.entries(a.feel?.voices ?? {})) {
    if (family === a.feel?.anchor || v.lean_ms === null || Math.abs(v.lean_ms) < 2) continue;
    text.push(`${familyName(family)} ${num(Math.abs(v.lean_ms))} ms ${v.lean_ms > 0 ? "late" : "early"}.`);
  }
  const drift = a.feel?.drift;
  if (drift) {
    const who = drift.voices.map(familyName).join(" and ");
    const low = Math.min(...drift.curve_ms);
    text.push(
      `${who} drifts ${num(Math.max(...drift.curve_ms) - low, 0)} ms over ${drift.bars} bars and comes back.`,
    );
  }
  return text.join(" ");
}

export function Facts(p: {
  analysis: Analysis;
  info: Info | undefined;
  hit: HeardHit | undefined;
  onRefile: (family: string) => void;
  onDrop: () => void;
  onTake: (op: string) => void;
}) {
  const a = p.analysis;
  const f = a.feel;
  const anchor = f?.anchor ? familyName(f.anchor) : "none";
  const rows: [string, string, string?][] = [
    ["Tempo", a.tempo_bpm === null ? "no beat found" : `${num(a.tempo_bpm, 2)} BPM`],
    ["Sure of it", a.tempo_confidence === null ? "–" : `${num(a.tempo_confidence * 100, 0)} %`],
    ["Meter", a.meter],
    [
      "Cycle",
      a.cycle_bars === null ? "not enough to say" : `${a.cycle_bars} ${a.cycle_bars === 1 ? "bar" : "bars"}`,
    ],
    [f?.pair === 8 ? "Swing, 8ths" : "Swing, 16ths", pm(f?.swing_percent, f?.swing_stderr, "%")],
    ["Offset zero", `${anchor} on beats`],
  ];
  for (const [family, v] of Object.entries(f?.voices ?? {})) {
    rows.push([`Lean ${familyName(family)}`, pm(v.lean_ms, v.lean_stderr, "ms", 1, true), `${v.count} hits`]);
    rows.push([
      `Scatter ${familyName(family)}`,
      v.scatter_ms === null ? "not enough to say" : `${num(v.scatter_ms)} ms`,
    ]);
  }
  rows.push([
    "Kick fundamental",
    a.kick_fundamental_hz === null ? "cannot be told" : `${num(a.kick_fundamental_hz)} Hz`,
  ]);
  rows.push([
    "Loudness",
    a.level.lufs_integrated === null ? "too short" : `${num(a.level.lufs_integrated)} LUFS`,
  ]);
  rows.push(["True peak", a.level.true_peak_dbtp === null ? "–" : `${num(a.level.true_peak_dbtp)} dBTP`]);
  return (
    <aside
      className="flex w-[268px] shrink-0 flex-col gap-3 overflow-y-auto border-l border-line bg-base-200 px-4 py-3"
      aria-label="What is there"
    >
      <h2 className="text-[17px]">What is there</h2>
      {a.tempo_bpm === null ? (
        <p>
          {a.hits.length === 0 ? "No drums were heard in this file." : "Hits were heard, but no steady beat."}{" "}
          Feel and pattern need a beat to be measured against.
        </p>
      ) : (
        <p className="leading-snug">{sentence(a)}</p>
      )}
      {p.hit && (
        <section className="rounded-lg border border-line bg-base-100 p-2.5" aria-label="Selected hit">
          <p className="num text-[12px]">
            {num(p.hit.time_s, 3)} s, {num(p.hit.offset_ms, 1, true)} ms, velocity {p.hit.velocity}
          </p>
          <p className="mb-1.5 text-[12px] text-muted">confidence {num(p.hit.confidence * 100, 0)} %</p>
          <div className="flex gap-2">
            <select
              aria-label="File it under"
              className="press px-1.5"
              value={p.hit.family}
              onChange={(e) => p.onRefile(e.target.value)}
            >
              {(p.info?.families ?? []).map((x) => (
                <option key={x} value={x}>
                  {familyName(x)}
                </option>
              ))}
            </select>
            <button type="button" className="press" onClick={p.onDrop} title="X">
              Drop hit
            </button>
          </div>
        </section>
      )}
      <table className="w-full text-[13px]">
        <tbody>
          {rows.map(([name, value, title]) => (
            <tr key={name} className="border-b border-line/70" title={title}>
              <th scope="row" className="py-[3px] pr-2 text-left font-normal">
                {name}
              </th>
              <td className="num py-[3px] text-right text-[12px]">{value}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="flex flex-wrap gap-2">
        <button
          type="button"
          className="press press-strong"
          disabled={!f}
          onClick={() => p.onTake("take.both")}
        >
          Take pattern and feel
        </button>
        <button type="button" className="press" disabled={!f} onClick={() => p.onTake("take.pattern")}>
          Pattern
        </button>
        <button type="button" className="press" disabled={!f} onClick={() => p.onTake("take.feel")}>
          Feel
        </button>
      </div>
    </aside>
  );
}
