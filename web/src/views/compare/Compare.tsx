import { Check, TriangleAlert } from "lucide-react";
import { useState } from "react";
import type { Row, State } from "../../api/client";
import { BringButton } from "../../parts/Bring";
import { familyName, Glyph } from "../../parts/family";
import { num } from "../../parts/format";
import { useProject } from "../../state/project";
import { useActiveReference, useCompare } from "../../state/queries";

const digitsOf = (r: Row) => (r.unit === "BPM" || r.unit === "/beat" ? 2 : 1);

/** Kick pitch is compared in cents but told in Hz. */
const valueUnit = (r: Row) => (r.unit === "ct" ? "Hz" : r.unit);

/** How many tolerances a row is off, for ordering. */
const severity = (r: Row) => Math.abs(r.difference ?? 0) / Math.max(r.tolerance, 1e-9);

export function Compare({ state }: { state: State }) {
  const reference = useActiveReference();
  const [other, setOther] = useState("");
  const others = state.document.references.filter((r) => r.id !== reference?.id);
  const against = others.some((r) => r.id === other) ? other : "";
  const { data, error } = useCompare(against);
  const edit = useProject((p) => p.edit);
  if (!reference)
    return (
      <main className="flex grow items-center justify-center">
        <div className="max-w-[440px] text-center">
          <h1 className="mb-2 text-2xl">Nothing to compare with yet</h1>
          <p className="mb-5 text-[15px] text-muted">
            Bring a reference, and every difference between it and your drums is named, sized, and can be
            closed from here.
          </p>
          <BringButton strong />
        </div>
      </main>
    );
  if (error) return <main className="grow p-6 text-error">{error.message}</main>;
  if (!data) return <main className="grow p-6 text-muted">Rendering and measuring…</main>;
  const whole = data.rows.filter((r) => !r.family || r.id === "kick.pitch");
  const families = [
    ...new Set(data.rows.flatMap((r) => (r.family && r.id !== "kick.pitch" ? [r.family] : []))),
  ];
  const outside = data.rows.filter((r) => r.inside === false).sort((a, b) => severity(b) - severity(a));
  const timing = outside.filter((r) => r.edits.length > 0 && /^(tempo|swing|Lean|Scatter)/.test(r.id));
  return (
    <>
      <main className="min-w-0 grow overflow-y-auto px-4 py-3">
        <div className="mb-2 flex flex-wrap items-center gap-3">
          <h1 className="text-[21px]">Compare</h1>
          <span className="text-[13px] text-muted">
            {others.length > 0 && (
              <select
                aria-label="What is compared"
                className="press mr-1.5 max-w-[190px] text-base-content"
                value={against}
                onChange={(e) => setOther(e.target.value)}
              >
                <option value="">Mine</option>
                {others.map((r) => (
                  <option key={r.id} value={r.id}>
                    {r.name}
                  </option>
                ))}
              </select>
            )}
            with “{reference.name}”: {data.outside} of {data.told} rows outside tolerance
          </span>
          <span className="grow" />
          <button
            type="button"
            className="press"
            disabled={timing.length === 0}
            onClick={() => edit(timing.flatMap((r) => r.edits))}
          >
            Apply all timing
          </button>
        </div>
        <table className="w-full border-separate border-spacing-y-[3px] text-[13px]">
          <thead className="text-left text-[12px] text-muted">
            <tr>
              <th className="pl-3 font-normal">measure</th>
              <th className="pr-3 text-right font-normal">{against ? "other" : "mine"}</th>
              <th className="pr-3 text-right font-normal">reference</th>
              <th className="pr-3 text-right font-normal">difference</th>
              <th className="font-normal max-[1160px]:hidden">against tolerance</th>
              <th className="font-normal">judgement</th>
              <th className="font-normal">change</th>
            </tr>
          </thead>
          <tbody>
            {whole.map((r) => (
              <RowLine key={r.id} row={r} />
            ))}
          </tbody>
          {families.map((f) => (
            <tbody key={f}>
              <tr>
                <th colSpan={7} scope="rowgroup" className="pt-2 pb-0.5 pl-1 text-left">
                  <span className="inline-flex items-center gap-2">
                    <Glyph family={f} size={16} /> {familyName(f)}
                  </span>
                </th>
              </tr>
              {data.rows
                .filter((r) => r.family === f && r.id !== "kick.pitch")
                .map((r) => (
                  <RowLine key={r.id} row={r} />
                ))}
            </tbody>
          ))}
        </table>
      </main>
      <aside
        className="flex w-[268px] shrink-0 flex-col gap-2.5 overflow-y-auto border-l border-line bg-base-200 px-4 py-3"
        aria-label="What you would hear"
      >
        <h2 className="text-[17px]">What you would hear</h2>
        <p className="text-[12px] text-muted">
          {outside.length === 0 ? `All ${data.told} rows that can be told are inside.` : "Largest first."}
        </p>
        {outside.map((r) => (
          <article key={r.id} className="rounded-lg border border-line bg-base-100 p-2.5">
            <h3 className="flex items-center gap-1.5 text-[14px]">
              {r.family && <Glyph family={r.family} size={14} />}
              {r.family && r.id !== "kick.pitch"
                ? `${familyName(r.family)}: ${r.measure.toLowerCase()}`
                : r.measure}
            </h3>
            <p className="mb-1 text-[12px]">
              <span className="num">{num(r.mine, digitsOf(r))}</span>, reference{" "}
              <span className="num text-ref">{num(r.reference, digitsOf(r))}</span> {valueUnit(r)}
            </p>
            {r.edits.length > 0 ? (
              <button type="button" className="press press-strong h-7" onClick={() => edit(r.edits)}>
                {r.change}
              </button>
            ) : (
              <p className="text-[12px] text-muted">{r.change}</p>
            )}
          </article>
        ))}
        {state.document.groove.lanes.every((l) => l.hits.length === 0) && (
          <p className="text-[13px]">The groove is empty: take the pattern of the reference, or draw one.</p>
        )}
      </aside>
    </>
  );
}

function RowLine({ row }: { row: Row }) {
  const edit = useProject((p) => p.edit);
  const d = digitsOf(row);
  const cell = "num bg-base-200 py-[3px] pr-3 text-right text-[12px] whitespace-nowrap";
  return (
    <tr data-row={row.id}>
      <th
        scope="row"
        className="w-[150px] rounded-l-lg bg-base-200 py-[3px] pl-3 text-left font-normal whitespace-nowrap"
      >
        {row.measure}
      </th>
      <td className={cell}>
        {num(row.mine, d)} <span className="text-muted">{row.mine === null ? "" : valueUnit(row)}</span>
      </td>
      <td className={`${cell} text-ref`}>{num(row.reference, d)}</td>
      <td className={`${cell} ${row.inside === false ? "font-bold text-error" : ""}`}>
        {num(row.difference, d, true)} {row.unit === "ct" && row.difference !== null ? "ct" : ""}
      </td>
      <td className="bg-base-200 max-[1160px]:hidden">
        <Gauge row={row} />
      </td>
      <td className="bg-base-200 pr-2 text-[12px] whitespace-nowrap">
        {row.inside === null ? (
          <span className="text-muted">{row.why}</span>
        ) : row.inside ? (
          <span className="inline-flex items-center gap-1 text-success">
            <Check size={13} /> inside ±{num(row.tolerance, d)}
          </span>
        ) : (
          <span className="inline-flex items-center gap-1 font-semibold text-error">
            <TriangleAlert size={13} /> outside ±{num(row.tolerance, d)}
          </span>
        )}
      </td>
      <td className="rounded-r-lg bg-base-200 pr-1.5 text-right">
        {row.edits.length > 0 && (
          <button
            type="button"
            className="press h-[22px] px-2 text-[12px]"
            title={row.change}
            aria-label={`Apply: ${row.change}`}
            onClick={() => edit(row.edits)}
          >
            Apply
          </button>
        )}
      </td>
    </tr>
  );
}

/** The difference as a dot on a line whose shaded middle is the tolerance. */
function Gauge({ row }: { row: Row }) {
  if (row.difference === null) return null;
  const w = 96;
  const range = row.tolerance * 3 || 1;
  const x = w / 2 + (Math.max(Math.min(row.difference, range), -range) / range) * (w / 2 - 6);
  const band = (row.tolerance / range) * (w / 2 - 6);
  return (
    <svg width={w} height={16} aria-hidden="true">
      <line x1={4} x2={w - 4} y1={8} y2={8} stroke="var(--line)" strokeWidth={1.5} />
      <rect x={w / 2 - band} y={4.5} width={2 * band} height={7} rx={3.5} fill="var(--color-base-300)" />
      <line x1={w / 2} x2={w / 2} y1={2} y2={14} stroke="var(--ref)" strokeWidth={1.6} />
      {row.inside ? (
        <circle cx={x} cy={8} r={4} fill="var(--color-success)" />
      ) : (
        <rect x={x - 4} y={4} width={8} height={8} fill="var(--color-error)" />
      )}
    </svg>
  );
}
