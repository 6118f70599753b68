// Mine against the reference: every measure of every voice, what would be heard of it, and
// what closes it.
import { useState } from "react";
import type { Row, Schemas, State } from "../../api/client";
import { BringButton } from "../../parts/Bring";
import { familyName } from "../../parts/family";
import { OriginsTable, RebuildChoice, RebuildReport } from "../../parts/Rebuild";
import { useApplying } from "../../state/applying";
import { useActiveReference, useAttempts, useCompare, useOrigins } from "../../state/queries";
import { useRebuilding } from "../../state/rebuilding";
import { Blind } from "./Blind";
import { severity } from "./cells";
import { Cell, Matrix } from "./Matrix";
import { Overlays } from "./Overlays";
import { Side } from "./Side";

type Group = Schemas["Group"];
const groups: [Group, string][] = [
  ["feel", "Feel"],
  ["hits", "Hits"],
  ["tone", "Tone"],
  ["levels", "Levels"],
];

export function Compare({ state }: { state: State }) {
  const reference = useActiveReference();
  const [other, setOther] = useState("");
  const [beside, setBeside] = useState<string[]>([]);
  const [group, setGroup] = useState<Group>("feel");
  const [chosenID, setChosen] = useState("");
  const [blind, setBlind] = useState(false);
  const others = state.document.references.filter((r) => r.id !== reference?.id);
  const projects = useAttempts(state.id);
  const against =
    others.some((r) => r.id === other) || projects.some((p) => `project:${p.id}` === other) ? other : "";
  const also = beside.filter((id) => others.some((r) => r.id === id));
  const { data, error } = useCompare(against, against ? [] : also);
  const [origins, setOrigins] = useState(false);
  const voices = useOrigins(origins);
  const choosing = useRebuilding((s) => s.choosing);
  const choose = useRebuilding((s) => s.choose);
  const busy = useApplying((s) => s.jobs[state.id] !== undefined);
  if (!reference)
    return (
      <main className="flex grow items-center justify-center">
        <div className="max-w-[440px] text-center">
          <h1 className="mb-2 text-3xl">Nothing to compare with yet</h1>
          <p className="mb-5 text-lg text-muted">
            Import a reference, and every difference between it and your drums is named, sized, and can be
            closed from here.
          </p>
          <BringButton strong />
        </div>
      </main>
    );
  if (error || !data)
    return (
      <main className="min-w-0 grow overflow-y-auto px-4 py-3">
        <div className="mb-2 flex items-center gap-2">
          <h1 className="grow text-2xl">Compare</h1>
          <button type="button" className="press" aria-pressed={choosing} onClick={() => choose(!choosing)}>
            Rebuild…
          </button>
        </div>
        {choosing && <RebuildChoice project={state.id} reference={reference} onClose={() => choose(false)} />}
        <RebuildReport project={state.id} />
        {error ? (
          <p className="text-error">{error.message}</p>
        ) : (
          <p className="text-muted">Rendering and measuring…</p>
        )}
      </main>
    );
  const columns = data.columns.filter((c) => c.group === group);
  const shownRows = data.rows.filter((r) => columns.some((c) => c.id === r.column));
  const whole = columns.filter((c) => c.whole && shownRows.some((r) => r.column === c.id));
  const by = columns.filter((c) => !c.whole && !c.bus && shownRows.some((r) => r.column === c.id));
  const buses = columns.filter((c) => c.bus && shownRows.some((r) => r.column === c.id));
  const families = [...new Set(data.rows.flatMap((r) => (r.family ? [r.family] : [])))];
  const worst = [...shownRows].sort((a, b) => severity(b) - severity(a))[0];
  const chosen = shownRows.find((r) => r.id === chosenID) ?? worst;
  const over = data.over.find((o) => o.family === chosen?.family) ?? data.over[0];
  const apply = (ids: string[]) => void useApplying.getState().apply(state.id, ids);
  const closable = (rows: Row[]) => rows.filter((r) => r.inside === false && r.act !== "").map((r) => r.id);
  const part = (g: Group) => data.parts.find((p) => p.group === g);
  return (
    <>
      <main className="min-w-0 grow overflow-y-auto px-4 py-3">
        <div className="mb-2 flex flex-wrap items-center gap-2">
          <h1 className="text-2xl">Compare</h1>
          <span className="grow text-sm text-muted">
            {others.length + projects.length > 0 && (
              <select
                aria-label="What is compared"
                className="press mr-1.5 max-w-[120px] text-base-content"
                value={against}
                onChange={(e) => setOther(e.target.value)}
              >
                <option value="">Mine</option>
                {others.map((r) => (
                  <option key={r.id} value={r.id}>
                    {r.name}
                  </option>
                ))}
                {projects.length > 0 && (
                  <optgroup label="Attempts: other projects">
                    {projects.map((p) => (
                      <option key={p.id} value={`project:${p.id}`}>
                        {p.name}
                      </option>
                    ))}
                  </optgroup>
                )}
              </select>
            )}
            with “{reference.name}”: {data.outside} of {data.measurable} values outside
          </span>
          <button type="button" className="press" aria-pressed={choosing} onClick={() => choose(!choosing)}>
            Rebuild…
          </button>
          <button
            type="button"
            className="press"
            aria-pressed={origins}
            title="What is still the reference's, and what is your own"
            onClick={() => setOrigins(!origins)}
          >
            Origins…
          </button>
          <button type="button" className="press" aria-pressed={blind} onClick={() => setBlind(!blind)}>
            Blind test…
          </button>
        </div>
        {choosing && <RebuildChoice project={state.id} reference={reference} onClose={() => choose(false)} />}
        <RebuildReport project={state.id} />
        {origins && voices.data && <OriginsTable voices={voices.data.voices} />}
        {blind && <Blind onClose={() => setBlind(false)} />}
        <div className="mb-2 flex flex-wrap items-center gap-2">
          <div role="tablist" aria-label="Measures" className="flex gap-1">
            {groups.map(([g, label]) => {
              const n = part(g);
              return (
                <button
                  key={g}
                  type="button"
                  role="tab"
                  aria-selected={g === group}
                  className={`press h-8 px-3 ${g === group ? "bg-neutral! text-neutral-content!" : ""}`}
                  title={`${n?.outside ?? 0} of ${n?.measurable ?? 0} outside; ${(n?.rows ?? 0) - (n?.measurable ?? 0)} cannot be measured`}
                  onClick={() => setGroup(g)}
                >
                  {label} <span className="num ml-1 text-xs">{n?.outside ?? 0}</span>
                </button>
              );
            })}
          </div>
          {against === "" && others.length > 0 && (
            <Beside
              references={others}
              chosen={also}
              onToggle={(id) => setBeside(also.includes(id) ? also.filter((x) => x !== id) : [...also, id])}
            />
          )}
          <span className="grow" />
          <button
            type="button"
            className="press h-8"
            disabled={busy || against !== "" || closable(shownRows).length === 0}
            onClick={() => apply(closable(shownRows))}
          >
            Apply all {groupNames[group]}
          </button>
          <button
            type="button"
            className="press h-8"
            disabled={busy || against !== "" || data.outside === 0}
            title="Closes all that lies outside, one change of the history"
            onClick={() => apply([])}
          >
            Apply all
          </button>
        </div>
        {whole.length > 0 && (
          <fieldset className="mb-1 flex flex-wrap gap-1" aria-label="Of the whole">
            {whole.map((c) => {
              const r = shownRows.find((x) => x.column === c.id);
              if (!r) return null;
              return (
                <div key={c.id} className="w-[86px] rounded-lg bg-base-200 p-0.5 text-center">
                  <div className="truncate text-xs font-semibold" title={`${c.hint}, ${c.unit}`}>
                    {c.label.replace(" of all", "")}
                  </div>
                  <Cell row={r} column={c} chosen={chosen?.id === r.id} onChoose={(x) => setChosen(x.id)} />
                </div>
              );
            })}
          </fieldset>
        )}
        <Matrix
          columns={by}
          rows={shownRows}
          lines={families
            .filter((f) => shownRows.some((r) => r.family === f))
            .map((f) => ({ id: f, name: familyName(f), family: f }))}
          chosen={chosen?.id ?? ""}
          onChoose={(r) => setChosen(r.id)}
          onApply={apply}
          busy={busy || against !== ""}
        />
        {buses.length > 0 && (
          <section aria-label="Buses" className="mt-2">
            <h2 className="text-lg">Buses</h2>
            <Matrix
              columns={buses}
              rows={shownRows}
              lines={state.document.mix.buses
                .map((b) => ({ id: `bus:${b.id}`, name: b.name }))
                .filter((b) => shownRows.some((r) => r.voice === b.id))}
              chosen={chosen?.id ?? ""}
              onChoose={(r) => setChosen(r.id)}
              onApply={apply}
              busy={busy || against !== ""}
            />
          </section>
        )}
        {over && <Overlays over={over} group={group} />}
      </main>
      <Side
        comparison={data}
        chosen={chosen}
        onChoose={(r) => {
          setGroup(data.columns.find((c) => c.id === r.column)?.group ?? group);
          setChosen(r.id);
        }}
        onApply={apply}
        fixed={against !== ""}
      />
    </>
  );
}

const groupNames: Record<Group, string> = { feel: "timing", hits: "hits", tone: "tone", levels: "levels" };

/** Other references whose values stand beside: what lies between them is inside. */
function Beside(p: { references: Schemas["Reference"][]; chosen: string[]; onToggle: (id: string) => void }) {
  return (
    <details className="relative">
      <summary
        className="press h-8 cursor-pointer list-none px-2 text-xs"
        title="Values of other references, and of genres, beside: what lies between them is inside"
      >
        {p.chosen.length === 0 ? "Beside others…" : `Beside ${p.chosen.length} more`}
      </summary>
      <fieldset
        className="absolute z-20 mt-1 flex w-[230px] flex-col gap-1 rounded-lg border border-line bg-base-100 p-2 text-xs shadow"
        aria-label="Beside which references"
      >
        {p.references.map((r) => (
          <label key={r.id} className="flex items-center gap-2">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={p.chosen.includes(r.id)}
              onChange={() => p.onToggle(r.id)}
            />
            <span className="min-w-0 truncate">{r.name}</span>
            {r.kind === "profile" && <span className="text-muted">ranges</span>}
          </label>
        ))}
      </fieldset>
    </details>
  );
}
