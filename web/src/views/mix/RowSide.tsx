import type { Document, Info, Schemas } from "../../api/client";
import { num } from "../../parts/format";
import { ParamField } from "../../parts/ParamField";
import { setNumber } from "../../state/numbers";
import { useProject } from "../../state/project";
import { Automation } from "./Automation";
import { Blind } from "./Blind";
import { toggleBypass, useBypassed } from "./bypass";
import { ChainFit } from "./ChainFit";
import { Bounce, BusActions, BusName, Link } from "./RowActions";
import { busesFor, type MixRow, useChosen } from "./rows";

export function RowSide(p: { row: MixRow; doc: Document; look: Schemas["RowLook"] | undefined; info: Info }) {
  const { row, doc, info } = p;
  const edit = useProject((s) => s.edit);
  const chosen = useChosen();
  const bypassed = useBypassed(row.row, "");
  const table =
    row.kind === "voice" ? info.tables.voice : row.kind === "bus" ? info.tables.bus : info.tables.output;
  const param = (id: string) => table.find((q) => q.id === id);
  const level = param("level_db");
  const pan = param("pan");
  const bus = row.row.startsWith("bus:") ? row.row.slice(4) : "";
  const sendable = busesFor(doc, row.row).filter(
    (b) => b.id !== row.to && !row.sends.some((s) => s.to === b.id),
  );
  const l = p.look?.levels;
  return (
    <section aria-label={`Row ${row.name}`} className="flex flex-col gap-1">
      <div className="flex items-center gap-1.5">
        {bus ? <BusName bus={bus} name={row.name} /> : <h2 className="grow truncate text-lg">{row.name}</h2>}
        {row.kind !== "out" && (
          <button
            type="button"
            className={`press h-7 px-2 text-xs ${row.mute ? "bg-row!" : ""}`}
            aria-pressed={row.mute}
            onClick={() => edit([setNumber(`${row.row}/mute`, row.mute ? 0 : 1)])}
          >
            Mute
          </button>
        )}
      </div>
      {level && <ParamField param={level} at={row.row} value={row.level} />}
      {pan && row.pan !== null && (
        <ParamField param={pan} at={row.row} value={row.pan} percent hint="Left is negative" />
      )}
      <table className="my-1 w-full text-xs" aria-label={`Levels of ${row.name}`}>
        <tbody>
          {(
            [
              ["Peak", l?.peak_dbfs, "dBFS"],
              ["True peak", l?.true_peak_dbtp, "dBTP"],
              ["Short-term, most", l?.short_term_lufs, "LUFS"],
              ["Integrated", l?.integrated_lufs, "LUFS"],
              ["Crest", l?.crest_db, "dB"],
            ] as const
          ).map(([name, v, unit]) => (
            <tr key={name}>
              <th scope="row" className="text-left font-normal text-muted">
                {name}
              </th>
              <td className="num text-right">
                {v == null ? "–" : num(v)} <span className="text-muted">{v == null ? "" : unit}</span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="border-t border-line pt-1">
        <h3 className="text-sm">Chain</h3>
        <div className="flex flex-wrap gap-1 py-1">
          <button
            type="button"
            className="press h-7 px-2 text-xs"
            disabled={row.chain.length === 0}
            title="Ctrl C"
            onClick={() => chosen.set({ copied: row.chain })}
          >
            Copy
          </button>
          <button
            type="button"
            className="press h-7 px-2 text-xs"
            disabled={chosen.copied.length === 0}
            title="In place of what is there"
            onClick={() => edit([{ op: "chain.set", row: row.row, effects: chosen.copied, title: "pasted" }])}
          >
            Paste
          </button>
          <button
            type="button"
            className="press h-7 px-2 text-xs"
            disabled={chosen.copied.length === 0}
            title="Ctrl V"
            onClick={() =>
              edit([
                {
                  op: "chain.set",
                  row: row.row,
                  effects: chosen.copied,
                  append: true,
                  title: "pasted behind",
                },
              ])
            }
          >
            Paste at end
          </button>
          <button
            type="button"
            className="press h-7 px-2 text-xs"
            disabled={row.chain.length === 0}
            onClick={() => edit([{ op: "chain.set", row: row.row, effects: [], title: "cleared" }])}
          >
            Clear
          </button>
        </div>
        <ChainFit key={row.row} row={row} />
        {row.kind !== "out" && <Link row={row} doc={doc} />}
        {row.chain.length > 0 && (
          <button
            type="button"
            className={`press h-7 px-2 text-xs ${bypassed ? "bg-row!" : ""}`}
            aria-pressed={bypassed}
            title="B"
            onClick={() => void toggleBypass(row.row, "")}
          >
            {bypassed ? "Chain bypassed" : "A/B chain"}
          </button>
        )}
      </div>
      {row.kind !== "out" && (
        <div className="border-t border-line pt-1">
          <h3 className="text-sm">Sends</h3>
          {row.sends.map((s) => (
            <div key={s.to} className="py-0.5">
              <div className="flex items-center text-xs">
                <span className="grow">to {doc.mix.buses.find((b) => b.id === s.to)?.name}</span>
                <button
                  type="button"
                  className="cursor-pointer text-2xs text-muted underline decoration-dotted"
                  onClick={() => edit([{ op: "send.remove", row: row.row, to: s.to }])}
                >
                  remove
                </button>
              </div>
              {info.tables.send.map((q) => (
                <ParamField
                  key={q.id}
                  param={q}
                  at={`${row.row}/sends/${s.to}`}
                  value={Number(s[q.id as "level_db"] ?? 0)}
                  {...(q.unit === "Hz" ? { digits: 0 } : {})}
                />
              ))}
            </div>
          ))}
          {sendable.length > 0 && (
            <select
              className="press h-7 w-full px-1.5 text-xs"
              aria-label={`${row.name} sends to`}
              value=""
              onChange={(e) => e.target.value && edit([{ op: "send.add", row: row.row, to: e.target.value }])}
            >
              <option value="">Send to…</option>
              {sendable.map((b) => (
                <option key={b.id} value={b.id}>
                  {b.name}
                </option>
              ))}
            </select>
          )}
          {row.sends.length === 0 && sendable.length === 0 && (
            <p className="text-xs text-muted">Add a bus to send a copy to it.</p>
          )}
        </div>
      )}
      {row.kind !== "out" && (
        <Automation
          doc={doc}
          numbers={[
            ...(level ? [{ at: `${row.row}/level_db`, param: level, label: "Level", value: row.level }] : []),
            ...(pan && row.pan !== null
              ? [{ at: `${row.row}/pan`, param: pan, label: "Pan", value: row.pan }]
              : []),
            ...row.sends.flatMap((s) => {
              const q = info.tables.send.find((x) => x.id === "level_db");
              const to = doc.mix.buses.find((b) => b.id === s.to)?.name ?? s.to;
              return q
                ? [
                    {
                      at: `${row.row}/sends/${s.to}/level_db`,
                      param: q,
                      label: `Send to ${to}`,
                      value: s.level_db,
                    },
                  ]
                : [];
            }),
          ]}
        />
      )}
      {bus && <BusActions bus={bus} doc={doc} />}
      <Bounce row={row.row} name={row.name} />
      <Blind row={row.row} effect="" disabled={row.chain.length === 0} />
    </section>
  );
}
