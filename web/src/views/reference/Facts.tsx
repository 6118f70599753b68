// Right of the reference: what was heard, in a sentence and a table.
import { useState } from "react";
import type { Analysis, Family, HeardHit, Info, Schemas } from "../../api/client";
import { familyName, Glyph } from "../../parts/family";
import { count, num } from "../../parts/format";
import { NumberField } from "../../parts/NumberField";
import { useProject } from "../../state/project";
import { useRebuilding } from "../../state/rebuilding";
import { go } from "../../state/route";

type Fact = Schemas["Fact"];

/** A number with its uncertainty, or that there is not enough to say. */
function factText(f: Fact): string {
  if (f.value === null) return "not enough to say";
  const digits =
    f.id === "tempo" ? 2 : ["cycle", "ghosts", "rolls", "flams", "velocity"].includes(f.id) ? 0 : 1;
  const err =
    f.stderr === null ? "" : ` ±${num(f.stderr, f.id === "velocity" ? 0 : f.id === "tempo" ? 2 : 1)}`;
  const unit = f.id === "cycle" && f.value === 1 ? f.unit.replace(/s$/, "") : f.unit;
  return `${num(f.value, digits, f.id === "lean" || f.id === "between")}${err} ${unit}`.trim();
}

/** A sentence whose numbers stay with their units at a line's end. */
const unbroken = (text: string) => text.replace(/(\d) (%|ms|BPM)/g, "$1\u00a0$2");

/** How loud the drums are against what plays beside them. */
function sharedLoudness(a: Analysis): string {
  const s = a.drums_against_rest;
  if (!s) return "not measurable";
  return s.alone ? "drums alone" : `${num(s.db, 0, true)} ±${num(s.stderr_db, 0)} LU`;
}

interface Group {
  name: string;
  family?: string;
  /** Whether hits speak for its numbers. */
  counted: boolean;
  rows: Row[];
}

interface Row {
  name: string;
  value: string;
  /** How many speak for it; left out where nothing is counted. */
  hits?: number;
}

const sureness = (p: number | null) => (p === null ? "–" : `${num(p * 100, 0)} % sure`);

/** How sure bar one is; of a loop that is the same from a later beat, that it is. */
const barOne = (a: Analysis) =>
  a.alike_beats !== null ? `same ${count(a.alike_beats, "beat")} later` : sureness(a.bar_one_confidence);

/** What it is rebuilt of is chosen in Compare. */
function rebuild() {
  useRebuilding.getState().choose(true);
  go(useProject.getState().state?.id ?? null, "compare");
}

/** The numbers: of time, of each family, of the sound. */
function grouped(a: Analysis, anchor: string): Group[] {
  const of = (family: string): Row[] =>
    a.facts
      .filter((f) => (f.family ?? "") === family && f.id !== "bar_one" && f.id !== "no_drums")
      .map((f) => ({ name: f.name, value: factText(f), hits: f.count }));
  const level = (v: number | null, unit: string, none: string) => (v === null ? none : `${num(v)} ${unit}`);
  const families = [...new Set(a.facts.flatMap((f) => (f.family ? [f.family] : [])))];
  return [
    {
      name: "Time",
      counted: true,
      rows: [
        ...of(""),
        { name: "Beat", value: sureness(a.tempo_confidence) },
        { name: "Bar one", value: barOne(a) },
        ...(a.feel ? [{ name: "Timing zero", value: `${anchor} on beats` }] : []),
      ],
    },
    ...families.map((family) => ({ name: familyName(family), family, counted: true, rows: of(family) })),
    {
      name: "Sound",
      counted: false,
      rows: [
        { name: "Kick fundamental", value: level(a.kick_fundamental_hz, "Hz", "not measurable") },
        { name: "Loudness", value: level(a.level.lufs_integrated, "LUFS", "not measurable") },
        { name: "Drums vs. everything else", value: sharedLoudness(a) },
        { name: "True peak", value: level(a.level.true_peak_dbtp, "dBTP", "–") },
        { name: "Crest", value: level(a.level.crest_db, "dB", "–") },
      ],
    },
  ];
}

export function Facts(p: {
  analysis: Analysis;
  info: Info | undefined;
  hit: HeardHit | undefined;
  /** With row, all hits of its row. */
  onRefile: (family: Family, row: boolean) => void;
  onDrop: () => void;
  onMove: (time: number) => void;
  onWeigh: (velocity: number) => void;
  onTake: (op: "take.pattern" | "take.feel" | "take.both") => void;
}) {
  const [row, setRow] = useState(false);
  const a = p.analysis;
  const f = a.feel;
  const anchor = f?.anchor ? familyName(f.anchor) : "none";
  const groups = grouped(a, anchor);
  const sentences = a.facts.filter((x) => x.text !== "");
  return (
    <aside
      className="flex w-[268px] shrink-0 flex-col gap-3 overflow-y-auto border-l border-line bg-base-200 px-4 py-3"
      aria-label="What was heard"
    >
      <div className="flex items-center">
        <h2 className="grow text-xl">What was heard</h2>
        <button
          type="button"
          className="press press-strong h-8 px-2.5"
          title="Makes a project of it: pattern, feel, sounds and levels"
          disabled={a.tempo_bpm === null}
          onClick={rebuild}
        >
          Rebuild…
        </button>
      </div>
      {a.tempo_bpm === null ? (
        <p>
          {a.no_drums
            ? (sentences[0]?.text ?? "")
            : a.hits.length === 0
              ? "No drums were heard in this file."
              : "Hits were heard, but no steady beat."}{" "}
          Feel and pattern need a beat to be measured against.
        </p>
      ) : (
        <ul className="flex flex-col gap-1 leading-snug" aria-label="In words">
          {sentences.map((x) => (
            <li key={`${x.id} ${x.family}`} className="flex gap-2">
              {x.family ? (
                <span className="pt-1">
                  <Glyph family={x.family} size={13} />
                </span>
              ) : (
                <span className="w-[13px] shrink-0" />
              )}
              <span>{unbroken(x.text)}</span>
            </li>
          ))}
        </ul>
      )}
      {p.hit && (
        <section className="rounded-lg border border-line bg-base-100 p-2.5" aria-label="Selected hit">
          <p className="mb-1 text-xs text-muted">
            <span className="num whitespace-nowrap">{num(p.hit.offset_ms, 1, true)} ms</span> from its step,
            heard with <span className="num whitespace-nowrap">{num(p.hit.confidence * 100, 0)} %</span>{" "}
            confidence
            {p.hit.covered &&
              "; Masked by another sound: placed at its family's usual offset until you move it"}
          </p>
          <NumberField
            label="Time"
            value={p.hit.time_s}
            unit="s"
            min={0}
            max={a.duration_s}
            digits={3}
            step={0.001}
            onChange={p.onMove}
          />
          <div className="mb-2">
            <NumberField
              label="Velocity"
              value={p.hit.velocity}
              unit=""
              min={1}
              max={127}
              digits={0}
              step={1}
              onChange={(v) => p.onWeigh(Math.round(v))}
            />
          </div>
          <div className="mb-1.5 flex gap-2">
            <select
              aria-label="Family"
              className="press min-w-0 grow px-1.5"
              value={p.hit.family}
              onChange={(e) => p.onRefile(e.target.value as Family, row)}
            >
              {(p.info?.families ?? []).map((x) => (
                <option key={x} value={x}>
                  {familyName(x)}
                </option>
              ))}
            </select>
            <button type="button" className="press shrink-0" onClick={p.onDrop} title="X">
              Remove hit
            </button>
          </div>
          <label
            className="flex items-center gap-1.5 text-xs"
            title="Another family is that of every hit of this row"
          >
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={row}
              onChange={(e) => setRow(e.target.checked)}
            />
            Change the whole row
          </label>
        </section>
      )}
      {groups.map((g) => (
        <table key={g.name} className="w-full text-sm">
          <caption className="pb-0.5 text-left font-semibold">
            <span className="flex items-center gap-1.5">
              {g.family && <Glyph family={g.family} size={13} />}
              {g.name}
              {g.counted && <span className="ml-auto text-2xs font-normal text-muted">hits</span>}
            </span>
          </caption>
          <tbody>
            {g.rows.map((r) => (
              <tr key={r.name} className="border-t border-line/70">
                <th scope="row" className="py-0.5 pr-1 text-left font-normal">
                  {r.name}
                </th>
                <td className="num py-0.5 text-right text-xs whitespace-nowrap">{r.value}</td>
                {g.counted && <td className="num w-7 py-0.5 text-right text-2xs text-muted">{r.hits}</td>}
              </tr>
            ))}
          </tbody>
        </table>
      ))}
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
