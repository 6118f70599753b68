// What is done with a row of the mix as a whole: linked, bounced, and of a bus renamed or removed.
import { useState } from "react";
import type { Document } from "../../api/client";
import { useProject } from "../../state/project";
import { type MixRow, rowsOf, useChosen } from "./rows";

/** Whether the chain follows another row's, or is a copy. */
export function Link({ row, doc }: { row: MixRow; doc: Document }) {
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
export function Bounce({ row, name }: { row: string; name: string }) {
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

export function BusName({ bus, name }: { bus: string; name: string }) {
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

export function BusActions({ bus, doc }: { bus: string; doc: Document }) {
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
