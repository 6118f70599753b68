// One row of the mix: left to right as the sound flows, from its effects to its level and
// where it goes.
import { ChevronsRight } from "lucide-react";
import { useState } from "react";
import type { Document, Info, Schemas } from "../../api/client";
import { monitor } from "../../live/monitor";
import { Glyph, hue } from "../../parts/family";
import { num } from "../../parts/format";
import { NumberField } from "../../parts/NumberField";
import { setNumber } from "../../state/numbers";
import { useProject } from "../../state/project";
import { AddEffect } from "./AddEffect";
import { ChainScroll } from "./ChainScroll";
import { EffectCard } from "./EffectCard";
import { busesFor, findEffect, freeEffect, type MixRow, useChosen } from "./rows";

const regions = ["sub", "low", "low_mid", "presence", "air"] as const;
const regionNames = ["below 60 Hz", "60 to 150 Hz", "150 to 600 Hz", "600 Hz to 5 kHz", "above 5 kHz"];

/** What is dragged from one place of a chain to another. */
interface Dragged {
  row: string;
  effect: string;
}
let dragged: Dragged | null = null;

export function MixRowLine(p: {
  row: MixRow;
  doc: Document;
  look: Schemas["RowLook"] | undefined;
  info: Info;
}) {
  const { row } = p;
  const edit = useProject((s) => s.edit);
  const chosen = useChosen();
  const active = chosen.row === row.row;
  const [before, setBefore] = useState<number | null>(null);
  const colour = row.kind === "voice" ? hue(row.family) : "var(--color-base-content)";
  const choose = (effect: string) => chosen.set({ row: row.row, effect });
  const drop = (e: React.DragEvent) => {
    e.preventDefault();
    e.nativeEvent.stopPropagation();
    const at = before ?? row.chain.length;
    setBefore(null);
    if (!dragged) return;
    if (dragged.row === row.row) {
      const from = row.chain.findIndex((s) => s.id === dragged?.effect);
      const to = from >= 0 && from < at ? at - 1 : at;
      if (from !== to) edit([{ op: "effect.move", row: row.row, effect: dragged.effect, to }]);
    }
    dragged = null;
  };
  const levels = p.look?.levels;
  return (
    <section
      aria-label={`${row.name} in the mix`}
      data-row={row.row}
      className={`flex items-stretch rounded-lg ${active ? "bg-row" : row.kind === "voice" ? "bg-base-200" : "bg-base-300"} ${
        row.kind === "voice" ? "" : "ml-4"
      }`}
    >
      <button
        type="button"
        className="flex w-[118px] shrink-0 cursor-pointer items-start gap-2 rounded-l-lg py-1.5 pl-3 text-left hover:bg-base-300/60"
        aria-pressed={active && chosen.effect === ""}
        title={row.kind === "voice" ? `Play ${row.name}, and choose its row` : `Choose the row ${row.name}`}
        onClick={() => {
          choose("");
          if (row.kind === "voice") void monitor.strike(row.row);
        }}
      >
        <span className="mt-0.5">
          {row.kind === "voice" ? <Glyph family={row.family} /> : <ChevronsRight size={17} />}
        </span>
        <span className="min-w-0">
          <span className={`block truncate font-semibold ${row.mute ? "line-through" : ""}`}>{row.name}</span>
          <span className="block text-2xs text-muted">{fact(row, p.doc, levels)}</span>
        </span>
      </button>
      <ChainScroll
        name={row.name}
        chosen={active ? chosen.effect : ""}
        onDragOver={(e) => dragged?.row === row.row && e.preventDefault()}
        onDrop={drop}
      >
        {row.chain.map((s, i) => (
          <EffectCard
            key={s.id}
            effect={s}
            label={p.info.effects.find((k) => k.id === s.kind)?.label ?? s.kind}
            picture={p.look?.effects.find((q) => q.effect === s.id)}
            colour={colour}
            chosen={active && chosen.effect !== "" && findEffect([s], chosen.effect) !== null}
            mark={before === i}
            onChoose={() => choose(s.id)}
            onSwitch={() => edit([{ op: "effect.switch", row: row.row, effect: s.id, off: !s.off }])}
            onDragStart={(e) => {
              e.dataTransfer.effectAllowed = "move";
              e.dataTransfer.setData("text/plain", s.id);
              dragged = { row: row.row, effect: s.id };
            }}
            onDragEnd={() => {
              dragged = null;
              setBefore(null);
            }}
            onDragOver={(e) => {
              if (dragged?.row !== row.row) return;
              e.preventDefault();
              const r = e.currentTarget.getBoundingClientRect();
              setBefore(e.clientX < r.left + r.width / 2 ? i : i + 1);
            }}
          />
        ))}
      </ChainScroll>
      <div className="flex shrink-0 items-center px-1.5">
        <AddEffect
          info={p.info}
          name={`Add an effect to ${row.name}`}
          disabled={row.chain.length >= 16}
          onAdd={(kind) => {
            edit([{ op: "effect.add", row: row.row, kind, to: row.chain.length }]);
            choose(freeEffect(row, kind));
          }}
        />
      </div>
      <span className="grow" />
      <div className="flex w-[204px] shrink-0 items-center gap-2 py-1 pr-2.5">
        <Parts parts={p.look?.parts_db ?? {}} silent={levels?.peak_dbfs === null} name={row.name} />
        <div className="w-[132px] min-w-0">
          <NumberField
            compact
            label="Level"
            value={row.level}
            unit="dB"
            min={-60}
            max={12}
            step={0.5}
            reset={row.kind === "voice" ? -12 : 0}
            hint={`Level of ${row.name}`}
            onChange={(v, g) => edit([setNumber(`${row.row}/level_db`, v)], g)}
          />
          {row.kind === "out" ? (
            <span className="num block text-right text-2xs text-muted">
              {levels?.integrated_lufs != null ? `${num(levels.integrated_lufs)} LUFS` : "silent"}
            </span>
          ) : (
            <select
              className="h-6 w-full cursor-pointer rounded border border-transparent bg-transparent text-right text-2xs text-muted hover:border-line"
              aria-label={`${row.name} goes to`}
              value={row.to}
              onChange={(e) => edit([{ op: "row.to", row: row.row, to: e.target.value }])}
            >
              <option value="">to output</option>
              {busesFor(p.doc, row.row).map((b) => (
                <option key={b.id} value={b.id}>
                  to {b.name}
                </option>
              ))}
            </select>
          )}
        </div>
      </div>
    </section>
  );
}

function fact(row: MixRow, doc: Document, levels: Schemas["RowLevels"] | undefined): string {
  if (row.mute) return "muted";
  if (levels && levels.peak_dbfs === null) return "silent in these bars";
  if (row.kind === "bus") {
    const n = [...doc.kit.voices, ...doc.mix.buses].filter((r) => `bus:${r.to}` === row.row).length;
    const sends = [...doc.kit.voices, ...doc.mix.buses].filter((r) =>
      r.sends.some((s) => `bus:${s.to}` === row.row),
    ).length;
    return (
      [n > 0 ? `bus of ${n}` : "", sends > 0 ? `${sends} send to it` : ""].filter(Boolean).join(", ") ||
      "no input"
    );
  }
  return levels?.peak_dbfs != null ? `peak ${num(levels.peak_dbfs)}` : "";
}

/** A row's part in five regions of the spectrum. */
function Parts({ parts, silent, name }: { parts: Record<string, number>; silent: boolean; name: string }) {
  const height = (db: number | undefined) => Math.max(((db ?? -60) + 36) / 36, 0) * 34;
  return (
    <svg
      width={58}
      height={38}
      className="shrink-0"
      role="img"
      aria-label={
        silent
          ? `${name} is silent`
          : `${name}: ${regions.map((r, i) => `${regionNames[i]} ${num(parts[r] ?? -120, 0)} dB`).join(", ")}`
      }
    >
      {regions.map((r, i) => (
        <rect
          key={r}
          x={i * 12}
          width={9}
          y={37 - Math.max(height(parts[r]), 1)}
          height={Math.max(height(parts[r]), 1)}
          fill="var(--color-base-content)"
          opacity={silent ? 0.15 : 0.5}
        >
          <title>{`${regionNames[i]}: ${num(parts[r] ?? -120, 1)} dB of all of it`}</title>
        </rect>
      ))}
    </svg>
  );
}
