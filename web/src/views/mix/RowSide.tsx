// The chosen row: its level, side, sends and levels, and what is done with its chain.
import { useState } from "react";
import type { Document, Info, Schemas } from "../../api/client";
import { num } from "../../parts/format";
import { ParamField } from "../../parts/ParamField";
import { setNumber } from "../../state/numbers";
import { useProject } from "../../state/project";
import { Automation } from "./Automation";
import { Blind } from "./Blind";
import { toggleBypass, useBypassed } from "./bypass";
import { ChainFit } from "./ChainFit";
import { busesFor, type MixRow, rowsOf, useChosen } from "./rows";

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

/** Whether the chain follows another row's, or is a copy. */
function Link({ row, doc }: { row: MixRow; doc: Document }) {
  const edit = useProject((s) => s.edit);
  const rows = rowsOf(doc);
  const others = rows.filter((r) => r.kind !== "out" && r.row !== row.row && r.like === "");
  const followed = rows.some((r) => r.like === row.row);
  return (
    <div className="pb-1 text-xs">
      <label className="flex items-center gap-2">
        <span className="grow">Linked to the chain of</span>
        <select
          className="press h-7 max-w-[120px] px-1.5 text-xs"
          aria-label="Linked to the chain of"
          title="Changes there apply here, except parameters set on this row"
          disabled={followed}
          value={row.like}
          onChange={(e) => edit([{ op: "chain.link", row: row.row, like: e.target.value }])}
        >
          <option value="">none</option>
          {others.map((r) => (
            <option key={r.row} value={r.row}>
              {r.name}
            </option>
          ))}
        </select>
      </label>
      {row.like !== "" && (
        <p className="text-2xs text-muted">
          linked;{" "}
          {row.own === 0
            ? "no parameter of its own yet"
            : row.own === 1
              ? "1 parameter of its own"
              : `${row.own} numbers are its own`}
        </p>
      )}
      {followed && <p className="text-2xs text-muted">Other rows follow this one.</p>}
    </div>
  );
}

/** A row with all that it goes through, brought back as a voice. */
function Bounce({ row, name }: { row: string; name: string }) {
  const bounce = useProject((s) => s.bounceRow);
  const [busy, setBusy] = useState(false);
  const [tail, setTail] = useState<"kept" | "wrapped">("kept");
  const [sounding, setSounding] = useState(false);
  const [semitones, setSemitones] = useState(0);
  const [follows, setFollows] = useState(true);
  const run = async (slices: boolean) => {
    setBusy(true);
    const speed = slices || semitones === 0 ? {} : { semitones, tempo_follows: follows };
    await bounce({ row, slices, tail, sounding, ...speed });
    setBusy(false);
  };
  return (
    <div className="border-t border-line pt-1">
      <h3 className="text-sm">{busy ? "Bouncing…" : "Bounce"}</h3>
      <div className="flex flex-wrap items-center gap-1 py-1">
        <button
          type="button"
          className="press h-7 px-2 text-xs"
          disabled={busy}
          title={`${name} with all its effects becomes a voice with one recording, struck where the groove begins`}
          onClick={() => void run(false)}
        >
          To one sample
        </button>
        <button
          type="button"
          className="press h-7 px-2 text-xs"
          disabled={busy}
          title="A voice for each family heard in it, its hits where they fall"
          onClick={() => void run(true)}
        >
          To slices
        </button>
        <select
          className="press h-7 px-1.5 text-xs"
          aria-label="Tail of the bounce"
          title="What rings over the loop's end: rings on beside the next pass, or is in its start"
          value={tail}
          onChange={(e) => setTail(e.target.value as "kept" | "wrapped")}
        >
          <option value="kept">tail kept</option>
          <option value="wrapped">tail wrapped</option>
        </select>
      </div>
      <div className="flex flex-wrap items-center gap-1.5 pb-1 text-xs">
        <label className="flex items-center gap-1.5">
          Varispeed
          <input
            type="number"
            className="num h-7 w-14 rounded border border-line bg-base-100 px-1 text-right"
            min={-24}
            max={24}
            step={1}
            value={semitones}
            title="How much faster the recording is read, with its pitch; less than 0 is slower"
            onChange={(e) => setSemitones(Math.min(24, Math.max(-24, Number(e.target.value) || 0)))}
          />
          st
        </label>
        {semitones !== 0 && (
          <select
            className="press h-7 px-1.5 text-xs"
            aria-label="Does the tempo follow?"
            title="The project's tempo changes with the speed, so that the recording lasts as many bars; or it stays"
            value={follows ? "follows" : "stays"}
            onChange={(e) => setFollows(e.target.value === "follows")}
          >
            <option value="follows">tempo follows</option>
            <option value="stays">tempo stays</option>
          </select>
        )}
      </div>
      <label className="flex w-fit cursor-pointer items-center gap-1.5 text-xs">
        <input
          type="checkbox"
          className="checkbox checkbox-xs"
          checked={!sounding}
          onChange={(e) => setSounding(!e.target.checked)}
        />
        mute what it replaces
      </label>
    </div>
  );
}

function BusName({ bus, name }: { bus: string; name: string }) {
  const edit = useProject((s) => s.edit);
  const [text, setText] = useState<string | null>(null);
  return (
    <input
      className="min-w-0 grow rounded border border-transparent bg-transparent px-1 font-display text-lg font-semibold hover:border-line"
      aria-label="Name of the bus"
      maxLength={40}
      value={text ?? name}
      onChange={(e) => setText(e.target.value)}
      onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
      onBlur={() => {
        if (text !== null && text.trim() !== "" && text !== name)
          edit([{ op: "bus.rename", bus, name: text }]);
        setText(null);
      }}
    />
  );
}

function BusActions({ bus, doc }: { bus: string; doc: Document }) {
  const edit = useProject((s) => s.edit);
  const at = doc.mix.buses.findIndex((b) => b.id === bus);
  const members = doc.kit.voices.filter((v) => v.to === bus).map((v) => v.id);
  return (
    <div className="border-t border-line pt-1">
      <h3 className="text-sm">Bus</h3>
      <div className="flex flex-wrap gap-1 py-1">
        {doc.kit.voices.map((v) => {
          const on = members.includes(v.id);
          return (
            <button
              key={v.id}
              type="button"
              className={`press h-6 px-1.5 text-2xs ${on ? "bg-row!" : ""}`}
              aria-pressed={on}
              title={on ? `${v.name} goes to it` : `Let ${v.name} go to it`}
              onClick={() => edit([{ op: "row.to", row: v.id, to: on ? "" : bus }])}
            >
              {v.name}
            </button>
          );
        })}
      </div>
      <div className="flex gap-1">
        <button
          type="button"
          className="press h-7 px-2 text-xs"
          disabled={at <= 0}
          onClick={() => edit([{ op: "bus.move", bus, to: at - 1 }])}
        >
          Move up
        </button>
        <button
          type="button"
          className="press h-7 px-2 text-xs"
          onClick={() => {
            edit([{ op: "bus.remove", bus }]);
            useChosen.getState().set({ row: "out", effect: "" });
          }}
        >
          Remove the bus
        </button>
      </div>
    </div>
  );
}
