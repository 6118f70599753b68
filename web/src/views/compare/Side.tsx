// What would be heard: the largest differences in sentences, the chosen one with what closes
// it, what came of the last change, and the distance over the versions.
import { Check, Ear, X } from "lucide-react";
import type { Row, Schemas } from "../../api/client";
import { useHearing } from "../../live/useHearing";
import { familyName, Glyph } from "../../parts/family";
import { num } from "../../parts/format";
import { useApplying } from "../../state/applying";
import { useProject } from "../../state/project";
import { go } from "../../state/route";
import { useSelection } from "../../state/selection";
import { useShaping } from "../../state/shaping";
import { type Column, digitsOf, severity, unitOf, withUnit } from "./cells";
import { Distances } from "./Distances";

export function Side(p: {
  comparison: Schemas["Comparison"];
  chosen: Row | undefined;
  onChoose: (row: Row) => void;
  onApply: (ids: string[]) => void;
  /** Two references are compared: nothing can be changed. */
  fixed: boolean;
}) {
  const { comparison: c } = p;
  const id = useProject((s) => s.state?.id) ?? "";
  const empty = useProject((s) => s.state?.document.groove.lanes.every((l) => l.hits.length === 0));
  const job = useApplying((s) => s.jobs[id]);
  const done = useApplying((s) => s.done[id]);
  const chosen = c.columns.find((x) => x.id === p.chosen?.column);
  return (
    <aside
      className="flex w-[268px] shrink-0 flex-col gap-2.5 overflow-y-auto border-l border-line bg-base-200 px-4 py-3"
      aria-label="What you would hear"
    >
      <h2 className="text-xl">What you would hear</h2>
      {c.largest.length === 0 ? (
        <p className="text-sm">
          {c.measurable === 0
            ? "There is too little on either side to compare."
            : `Nothing: all ${c.measurable} values that can be measured are inside.`}
        </p>
      ) : (
        <ol className="list-decimal pl-5 text-sm" aria-label="The largest differences">
          {c.largest.map((s) => (
            <li key={s}>{s}</li>
          ))}
        </ol>
      )}
      {c.outside > c.largest.length && (
        <details className="text-xs">
          <summary className="cursor-pointer text-muted">all {c.outside}, the largest first</summary>
          <ul className="mt-1 flex max-h-[220px] flex-col overflow-y-auto">
            {[...c.rows]
              .filter((r) => r.inside === false)
              .sort((a, b) => severity(b) - severity(a))
              .map((r) => (
                <li key={r.id}>
                  <button
                    type="button"
                    className={`w-full cursor-pointer rounded px-1 py-0.5 text-left hover:bg-base-300 ${p.chosen?.id === r.id ? "bg-row" : ""}`}
                    onClick={() => p.onChoose(r)}
                  >
                    {r.sentence}
                  </button>
                </li>
              ))}
          </ul>
        </details>
      )}
      {empty && !p.fixed && (
        <p className="text-sm">The groove is empty: take the pattern of the reference, or draw one.</p>
      )}
      {job && (
        <div className="rounded-lg border border-line bg-base-100 px-2.5 py-2 text-xs" role="status">
          <p className="mb-1">Closing: {job.stage || "measuring"}…</p>
          <progress
            className="progress w-full"
            value={job.progress}
            max={1}
            aria-label="Differences closed"
          />
          <button
            type="button"
            className="press mt-1 h-7 px-2"
            onClick={() => useApplying.getState().stop(id)}
          >
            Stop
          </button>
        </div>
      )}
      {done && <Report done={done} columns={c.columns} onClose={() => useApplying.getState().forget(id)} />}
      {p.chosen && chosen && (
        <Detail
          row={p.chosen}
          column={chosen}
          names={c.names}
          busy={!!job}
          onApply={p.onApply}
          fixed={p.fixed}
        />
      )}
      {!p.fixed && <Distances compared={c.measurable} />}
    </aside>
  );
}

/** What was wanted of each row and what was measured then. */
function Report(p: { done: Schemas["Applied"]; columns: Column[]; onClose: () => void }) {
  const { done } = p;
  const closed = done.rows.filter((r) => r.inside).length;
  return (
    <section
      className="rounded-lg border border-line bg-base-100 px-2.5 py-2 text-xs"
      aria-label="What came of it"
    >
      <div className="flex items-start gap-2">
        <h3 className="grow text-sm">
          {done.rows.length === 0 ? "Nothing to close" : `${closed} of ${done.rows.length} closed`}
        </h3>
        <button type="button" className="cursor-pointer" aria-label="Close the report" onClick={p.onClose}>
          <X size={14} />
        </button>
      </div>
      {done.rows.length > 0 && (
        <p className="mb-1 text-muted">
          Measured on the render: {done.before} outside before, {done.after} now. One change, undone as one.
        </p>
      )}
      <ul className="flex max-h-[190px] flex-col gap-1 overflow-y-auto">
        {done.rows.map((r) => {
          const c = p.columns.find((x) => x.id === r.column);
          if (!c) return null;
          return (
            <li key={r.id}>
              <span className="inline-flex items-center gap-1">
                {r.inside ? (
                  <Check size={12} className="text-success" aria-label="inside" />
                ) : (
                  <X size={12} className="text-error" aria-label="outside" />
                )}
                {r.family ? `${familyName(r.family)}: ` : ""}
                {c.label.toLowerCase()}
              </span>
              <span className="num block pl-4">
                {c.id === "hits"
                  ? `${num(-r.wanted, 0)} to change, ${num((r.got ?? 0) * -1, 0)} changed`
                  : `wanted ${withUnit(r.wanted, c)}, got ${r.got === null ? "–" : num(r.got, c.digits, true)}`}
              </span>
            </li>
          );
        })}
      </ul>
    </section>
  );
}

function Detail(p: {
  row: Row;
  column: Column;
  names: string[];
  busy: boolean;
  onApply: (ids: string[]) => void;
  fixed: boolean;
}) {
  const { row: r, column: c } = p;
  const hearing = useHearing();
  const unit = unitOf(c);
  const d = digitsOf(c);
  const said = (v: number | null) => (v === null ? "cannot be measured" : `${num(v, d)} ${unit}`);
  const toned = c.group === "tone" || (c.group === "levels" && !c.whole);
  return (
    <section
      className="rounded-lg border border-line bg-base-100 p-2.5 text-xs"
      aria-label="The chosen difference"
    >
      <h3 className="flex items-center gap-1.5 text-base">
        {r.family && <Glyph family={r.family} size={14} />}
        {r.family ? `${familyName(r.family)}: ${c.label.toLowerCase()}` : c.label}
      </h3>
      <p className="mb-1 text-muted">{c.hint}.</p>
      <dl className="grid grid-cols-[auto_1fr] gap-x-3">
        <dt className="text-muted">mine</dt>
        <dd className="num">{said(r.mine)}</dd>
        <dt className="text-muted">{p.names.length > 1 ? p.names[0] : "reference"}</dt>
        <dd className="num text-ref">
          {said(r.reference)}
          {r.within > 0 && r.reference !== null ? ` (${withUnit(r.within, c).replace("+", "±")})` : ""}
        </dd>
        {p.names.slice(1).map((n, i) => (
          <Beside key={n} name={n} text={said(r.others[i] ?? null)} />
        ))}
        {r.difference !== null && c.id !== "hits" && (
          <>
            <dt className="text-muted">apart</dt>
            <dd className={`num ${r.inside ? "" : "font-bold text-error"}`}>{withUnit(r.difference, c)}</dd>
          </>
        )}
        <dt className="text-muted">heard from</dt>
        <dd>
          <span className="num">
            {num(r.tolerance, c.digits < 2 ? 1 : 2)} {c.unit}
          </span>{" "}
          <span className="text-muted">({c.source})</span>
        </dd>
      </dl>
      {r.inside === null && <p className="mt-1">Cannot be measured: {r.why}.</p>}
      {r.inside && <p className="mt-1 text-success">Nobody would hear it.</p>}
      {!p.fixed && r.act !== "" && (
        <>
          <p className="mt-1.5">{r.change}.</p>
          <button
            type="button"
            className="press press-strong mt-1 h-7 px-2"
            disabled={p.busy}
            aria-label={`Apply: ${r.change}`}
            onClick={() => p.onApply([r.id])}
          >
            Apply
          </button>
        </>
      )}
      {r.inside === false && r.act === "" && <p className="mt-1.5">{r.change}</p>}
      {!p.fixed && toned && r.family && (
        <div className="mt-1.5 flex flex-wrap gap-1">
          <button
            type="button"
            className="press h-7 px-2"
            title="Mine, then the reference's, then both at a quarter of the speed"
            onClick={() =>
              hearing.hear(r.id, { both: { family: r.family as NonNullable<Row["family"]> } }, 8)
            }
          >
            <Ear size={13} className="mr-1 inline" />
            Hear both
          </button>
          {r.voice && (
            <button
              type="button"
              className="press h-7 px-2"
              title="Search a sound that is as near as can be, in Sounds"
              onClick={() => fitTo(r)}
            >
              Fit the sound…
            </button>
          )}
        </div>
      )}
    </section>
  );
}

const Beside = ({ name, text }: { name: string; text: string }) => (
  <>
    <dt className="truncate text-muted" title={name}>
      {name}
    </dt>
    <dd className="num text-ref">{text}</dd>
  </>
);

/** Opens the fit of the row's voice; the reference's drum of its family is its target. */
function fitTo(r: Row) {
  const { state, edit } = useProject.getState();
  if (!state || !r.family) return;
  const reference = state.document.active_reference;
  if (!state.document.targets.some((t) => t.voice === r.voice))
    edit([
      {
        op: "target.set",
        target: { voice: r.voice, reference, drum: { family: r.family, group: 0, dry: false } },
      },
    ]);
  useSelection.setState({ voice: r.voice });
  useShaping.getState().set({ panel: "fit" });
  go(state.id, "sounds");
}
