// A chain that brings a row to the reference: found, looked at, then put behind what is there.
import { useState } from "react";
import { api, type Schemas } from "../../api/client";
import { num } from "../../parts/format";
import { useProject } from "../../state/project";
import type { MixRow } from "./rows";

export function ChainFit({ row }: { row: MixRow }) {
  const id = useProject((p) => p.state?.id) ?? "";
  const edit = useProject((p) => p.edit);
  const notify = useProject((p) => p.notify);
  const [work, setWork] = useState<AbortController | null>(null);
  const [found, setFound] = useState<Schemas["RowFit"] | null>(null);
  const search = async () => {
    const mine = new AbortController();
    setWork(mine);
    setFound(null);
    try {
      setFound(await api.fitChain(id, row.row, mine.signal));
    } catch (e) {
      if (!mine.signal.aborted) notify((e as Error).message);
    } finally {
      setWork(null);
    }
  };
  const line = (name: string, before: number, after: number, plus: boolean) => (
    <tr>
      <th scope="row" className="text-left font-normal text-muted">
        {name}
      </th>
      <td className="num text-right">{num(before, 1, plus)}</td>
      <td className="num text-right">{num(after, 1, plus)} dB</td>
    </tr>
  );
  return (
    <div className="flex flex-col gap-1 py-1">
      <div className="flex gap-1">
        <button
          type="button"
          className="press h-7 px-2 text-xs"
          disabled={work !== null}
          title="Equalizer, dynamics, saturation and room that bring it to the reference's balance, crest and space"
          onClick={() => void search()}
        >
          {work ? "Fitting…" : "Fit to the reference"}
        </button>
        {work && (
          <button type="button" className="press h-7 px-2 text-xs" onClick={() => work.abort()}>
            Stop
          </button>
        )}
      </div>
      {found && (
        <section className="rowbox flex flex-col gap-1 px-2 py-1.5 text-xs" aria-label="Fitted chain">
          <p className="text-muted">against {found.against}</p>
          <ul className="flex flex-col gap-0.5">
            {found.does.map((m) => (
              <li key={m}>{m}</li>
            ))}
          </ul>
          <table className="w-full" aria-label="Off by, before and after">
            <tbody>
              {line("Third octaves", found.before.balance_db, found.after.balance_db, false)}
              {line("Crest", found.before.crest_db, found.after.crest_db, true)}
              {found.effects.some((s) => s.kind === "reverb") &&
                line("Quiet under loud", found.before.space_db, found.after.space_db, true)}
            </tbody>
          </table>
          <div className="flex gap-1">
            <button
              type="button"
              className="press press-strong h-7 px-2 text-xs"
              onClick={() => {
                edit([
                  {
                    op: "chain.set",
                    row: row.row,
                    effects: found.effects,
                    append: true,
                    title: "fitted to the reference",
                  },
                ]);
                setFound(null);
              }}
            >
              Append
            </button>
            <button type="button" className="press h-7 px-2 text-xs" onClick={() => setFound(null)}>
              Discard
            </button>
          </div>
        </section>
      )}
    </div>
  );
}
