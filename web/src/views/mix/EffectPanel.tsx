// The chosen effect, large: what it does to this row, its bypass, and its numbers.
import { Trash2 } from "lucide-react";
import { useEffect, useState } from "react";
import type { Document, Info, Schemas } from "../../api/client";
import { monitor } from "../../live/monitor";
import { sentence, shown } from "../../parts/effects";
import { hue } from "../../parts/family";
import { num } from "../../parts/format";
import { ParamField } from "../../parts/ParamField";
import { useProject } from "../../state/project";
import { AddEffect } from "./AddEffect";
import { Automation } from "./Automation";
import { Bands } from "./Bands";
import { toggleBypass, useBypassed } from "./bypass";
import { EffectPicture } from "./pictures";
import { RecordingChoice } from "./RecordingChoice";
import { type Effect, freeEffect, type MixRow, useChosen } from "./rows";
import { ShapeEditor } from "./ShapeEditor";

const width = 236;

export function EffectPanel(p: {
  row: MixRow;
  effect: Effect;
  picture: Schemas["Picture"] | undefined;
  info: Info;
  doc: Document;
  /** The effect within which it stands. */
  within: Effect | null;
}) {
  const { row, effect, picture, info } = p;
  const edit = useProject((s) => s.edit);
  const bypassed = useBypassed(row.row, effect.id);
  const kind = info.effects.find((k) => k.id === effect.kind);
  const colour = row.kind === "voice" ? hue(row.family) : "var(--color-base-content)";
  if (!kind) return null;
  const at = `${row.row}/chain/${effect.id}`;
  return (
    <section aria-label={`${row.name}: ${kind.label}`} className="flex flex-col gap-1">
      <div className="flex items-start gap-2">
        <h2 className="grow text-lg leading-tight">
          {row.name}: {kind.label.toLowerCase()}
        </h2>
        <button
          type="button"
          className="press px-1.5"
          aria-label="Remove this effect"
          title="Delete"
          onClick={() => {
            edit([{ op: "effect.remove", row: row.row, effect: effect.id }]);
            useChosen.getState().set({ effect: "" });
          }}
        >
          <Trash2 size={14} />
        </button>
      </div>
      {p.within && (
        <button
          type="button"
          className="cursor-pointer self-start text-xs text-muted underline decoration-dotted"
          onClick={() => useChosen.getState().set({ effect: p.within?.id ?? "" })}
        >
          within {info.effects.find((k) => k.id === p.within?.kind)?.label.toLowerCase()}
        </button>
      )}
      <div className="flex items-center gap-1.5">
        <label className="flex items-center gap-1.5 text-xs">
          <input
            type="checkbox"
            className="toggle toggle-xs"
            aria-label="Effect on"
            checked={!effect.off}
            onChange={(e) =>
              edit([{ op: "effect.switch", row: row.row, effect: effect.id, off: !e.target.checked }])
            }
          />
          {effect.off ? "off" : "on"}
        </label>
        <span className="grow" />
        <button
          type="button"
          className={`press h-7 px-2 text-xs ${bypassed ? "bg-row!" : ""}`}
          aria-pressed={bypassed}
          title="Bypassed and active at matched loudness (B)"
          onClick={() => void toggleBypass(row.row, effect.id)}
        >
          {bypassed ? "Bypassed" : "A/B"}
        </button>
      </div>
      {picture && Math.abs(picture.changed_lu) >= 0.1 && (
        <p className="text-2xs text-muted">
          <span className="num">{num(Math.abs(picture.changed_lu))}</span> LU{" "}
          {picture.changed_lu > 0 ? "louder" : "quieter"}. In A/B, the bypassed state is matched to it.
        </p>
      )}
      <div className="relative rounded-lg border border-line bg-base-100">
        <EffectPicture picture={picture} width={width} height={112} colour={colour} large off={effect.off} />
        {picture?.shows === "time" && picture.most_db < -0.5 && (
          <span className="num absolute top-1 right-1.5 text-2xs text-primary">
            {num(picture.most_db)} dB at most
          </span>
        )}
        {kind.bands > 0 && (
          <Bands at={at} effect={effect} width={width} height={112} row={row.row} colour={colour} />
        )}
      </div>
      <p className="text-2xs text-muted">{legend(picture)}</p>
      {kind.keyed && <KeyChoice row={row} effect={effect} doc={p.doc} />}
      {kind.recorded && <RecordingChoice row={row} effect={effect} />}
      {kind.shaped && <ShapeEditor row={row} effect={effect} doc={p.doc} />}
      {kind.bands > 0 ? (
        <BandNumbers at={at} row={row.row} effect={effect} kind={kind} />
      ) : (
        kind.params
          .filter((param) => shown(param, effect.values))
          .map((param) => (
            <ParamField
              key={param.id}
              param={param}
              at={at}
              value={effect.values[param.id] ?? 0}
              percent={param.id === "pan"}
              {...(param.unit === "Hz" ? { digits: 0 } : {})}
            />
          ))
      )}
      <Automation
        doc={p.doc}
        numbers={kind.params
          .filter(
            (q) => q.scale !== "discrete" && q.scale !== "switch" && !q.fixed && shown(q, effect.values),
          )
          .map((q) => ({ at: `${at}/${q.id}`, param: q, label: q.label, value: effect.values[q.id] ?? 0 }))}
      />
      {(effect.paths ?? []).map((path, i) => (
        <Path
          // biome-ignore lint/suspicious/noArrayIndexKey: a path is its place
          key={i}
          row={row}
          effect={effect}
          path={path}
          place={i}
          info={info}
        />
      ))}
    </section>
  );
}

function legend(picture: Schemas["Picture"] | undefined): string {
  switch (picture?.shows) {
    case "spectrum":
      return "Grey: the row's own sound. Line: what is added and taken, in third octaves.";
    case "transfer":
      return "Output against input (transfer curve)";
    case "time":
      return "Grey: input. Colour: output. Red: gain reduction. A third of a second of this row.";
  }
  return "measuring…";
}

function KeyChoice({ row, effect, doc }: { row: MixRow; effect: Effect; doc: Document }) {
  const edit = useProject((s) => s.edit);
  return (
    <label className="flex items-center gap-2 py-1 text-sm">
      <span className="grow">Sidechain</span>
      <select
        className="press h-7 max-w-[150px] px-1.5 text-sm"
        aria-label="Sidechain"
        title="Its own sound, another voice before its chain (also a muted one), or a bus before its chain"
        value={effect.key ?? ""}
        onChange={(e) =>
          edit([{ op: "effect.sidechain", row: row.row, effect: effect.id, key: e.target.value }])
        }
      >
        <option value="">its own sound</option>
        {doc.kit.voices
          .filter((v) => v.id !== row.row)
          .map((v) => (
            <option key={v.id} value={v.id}>
              {v.name}
              {v.mute ? " (muted)" : ""}
            </option>
          ))}
        {doc.mix.buses
          .filter((b) => `bus:${b.id}` !== row.row)
          .map((b) => (
            <option key={b.id} value={`bus:${b.id}`}>
              {b.name} (bus)
            </option>
          ))}
      </select>
    </label>
  );
}

/** The numbers of one band at a time. */
function BandNumbers({
  at,
  row,
  effect,
  kind,
}: {
  at: string;
  row: string;
  effect: Effect;
  kind: Schemas["EffectKind"];
}) {
  const numbers: number[] = Array.from({ length: kind.bands }, (_, i) => i + 1);
  // At first the lowest band that is not off.
  const [band, setBand] = useState(() => numbers.find((n) => effect.values[`band${n}.shape`]) ?? 1);
  const [alone, setAlone] = useState(false);
  const hear = (n: number, on: boolean) => monitor.hearBand(row, effect.id, on ? n - 1 : -1);
  useEffect(() => () => monitor.hearBand(row, effect.id, -1), [row, effect.id]);
  const shape = effect.values[`band${band}.shape`] ?? 0;
  const mix = kind.params.find((q) => q.id === "mix_percent");
  return (
    <div>
      <fieldset className="flex gap-0.5 py-1" aria-label="Band">
        {numbers.map((n) => (
          <button
            key={n}
            type="button"
            aria-pressed={n === band}
            className={`num h-7 grow cursor-pointer rounded border text-xs ${
              n === band ? "border-neutral bg-neutral text-neutral-content" : "border-line bg-base-100"
            } ${(effect.values[`band${n}.shape`] ?? 0) === 0 ? "opacity-50" : ""}`}
            title={(effect.values[`band${n}.shape`] ?? 0) === 0 ? "off" : ""}
            onClick={() => {
              setBand(n);
              hear(n, alone);
            }}
          >
            {n}
          </button>
        ))}
      </fieldset>
      {shape !== 0 && (
        <button
          type="button"
          className={`press h-7 px-2 text-xs ${alone ? "bg-row!" : ""}`}
          aria-pressed={alone}
          title="Only the part of the spectrum that this band is about"
          onClick={() => {
            setAlone(!alone);
            hear(band, !alone);
          }}
        >
          {alone ? `Clear solo of band ${band}` : `Solo band ${band}`}
        </button>
      )}
      {kind.params
        .filter((q) => q.id.startsWith(`band${band}.`) && shown(q, effect.values))
        .map((param) => (
          <ParamField
            key={param.id}
            param={param}
            at={at}
            label={sentence(param.label.replace(/^Band \d+ /, ""))}
            value={effect.values[param.id] ?? 0}
            {...(param.unit === "Hz" ? { digits: 0 } : {})}
          />
        ))}
      {mix && <ParamField param={mix} at={at} value={effect.values.mix_percent ?? 100} />}
    </div>
  );
}

/** A chain within an effect. */
function Path(p: { row: MixRow; effect: Effect; path: Effect[]; place: number; info: Info }) {
  const edit = useProject((s) => s.edit);
  const set = useChosen((c) => c.set);
  const name = p.info.effects.find((k) => k.id === p.effect.kind)?.paths[p.place] ?? "";
  return (
    <div className="border-t border-line pt-1">
      <h3 className="text-xs text-muted">{name}</h3>
      <div className="flex flex-wrap items-center gap-1">
        {p.path.map((s) => (
          <button
            key={s.id}
            type="button"
            className={`press h-7 px-2 text-xs ${s.off ? "line-through" : ""}`}
            onClick={() => set({ effect: s.id })}
          >
            {p.info.effects.find((k) => k.id === s.kind)?.label ?? s.kind}
          </button>
        ))}
        <AddEffect
          info={p.info}
          name={`Add an effect to ${name.toLowerCase()}`}
          onAdd={(kind) => {
            edit([
              { op: "effect.add", row: p.row.row, kind, to: p.path.length, in: p.effect.id, path: p.place },
            ]);
            set({ effect: freeEffect(p.row, kind) });
          }}
        />
      </div>
    </div>
  );
}
