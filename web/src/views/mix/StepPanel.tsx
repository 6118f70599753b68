// The chosen step, large: what it does to this row, judged off and on, and its numbers.
import { Trash2 } from "lucide-react";
import { useEffect, useState } from "react";
import type { Document, Info, Param, Schemas } from "../../api/client";
import { monitor } from "../../live/monitor";
import { hue } from "../../parts/family";
import { num } from "../../parts/format";
import { ParamField } from "../../parts/ParamField";
import { useProject } from "../../state/project";
import { AddStep } from "./AddStep";
import { Bands } from "./Bands";
import { toggleJudge, useJudged } from "./judge";
import { Moves } from "./Moves";
import { StepPicture } from "./pictures";
import { freeStep, type MixRow, type Step, useChosen } from "./rows";
import { ShapeEditor } from "./ShapeEditor";

const width = 236;

export function StepPanel(p: {
  row: MixRow;
  step: Step;
  picture: Schemas["Picture"] | undefined;
  info: Info;
  doc: Document;
  /** The step within which it stands. */
  within: Step | null;
}) {
  const { row, step, picture, info } = p;
  const edit = useProject((s) => s.edit);
  const judged = useJudged(row.row, step.id);
  const kind = info.steps.find((k) => k.id === step.kind);
  const colour = row.kind === "voice" ? hue(row.family) : "var(--color-base-content)";
  if (!kind) return null;
  const at = `${row.row}/chain/${step.id}`;
  return (
    <section aria-label={`${row.name}: ${kind.label}`} className="flex flex-col gap-1">
      <div className="flex items-start gap-2">
        <h2 className="grow text-[16px] leading-tight">
          {row.name}: {kind.label.toLowerCase()}
        </h2>
        <button
          type="button"
          className="press px-1.5"
          aria-label="Remove this step"
          title="Delete"
          onClick={() => {
            edit([{ op: "chain.remove", row: row.row, step: step.id }]);
            useChosen.getState().set({ step: "" });
          }}
        >
          <Trash2 size={14} />
        </button>
      </div>
      {p.within && (
        <button
          type="button"
          className="cursor-pointer self-start text-[12px] text-muted underline decoration-dotted"
          onClick={() => useChosen.getState().set({ step: p.within?.id ?? "" })}
        >
          within {info.steps.find((k) => k.id === p.within?.kind)?.label.toLowerCase()}
        </button>
      )}
      <div className="flex items-center gap-1.5">
        <label className="flex items-center gap-1.5 text-[12px]">
          <input
            type="checkbox"
            className="toggle toggle-xs"
            aria-label="Step on"
            checked={!step.off}
            onChange={(e) =>
              edit([{ op: "chain.switch", row: row.row, step: step.id, off: !e.target.checked }])
            }
          />
          {step.off ? "off" : "on"}
        </label>
        <span className="grow" />
        <button
          type="button"
          className={`press h-7 px-2 text-[12px] ${judged ? "bg-row!" : ""}`}
          aria-pressed={judged}
          title="Hears it off and on at the same loudness (B)"
          onClick={() => void toggleJudge(row.row, step.id)}
        >
          {judged ? "You hear it off" : "Judge off and on"}
        </button>
      </div>
      {picture && Math.abs(picture.changed_lu) >= 0.1 && (
        <p className="text-[11px] text-muted">
          makes it <span className="num">{num(Math.abs(picture.changed_lu))}</span> LU{" "}
          {picture.changed_lu > 0 ? "louder" : "softer"}; judged, off is played as loud
        </p>
      )}
      <div className="relative rounded-lg border border-line bg-base-100">
        <StepPicture picture={picture} width={width} height={112} colour={colour} large off={step.off} />
        {picture?.shows === "time" && picture.most_db < -0.5 && (
          <span className="num absolute top-1 right-1.5 text-[11px] text-primary">
            {num(picture.most_db)} dB at most
          </span>
        )}
        {step.kind === "equalizer" && (
          <Bands at={at} step={step} width={width} height={112} row={row.row} colour={colour} />
        )}
      </div>
      <p className="text-[11px] text-muted">{legend(picture)}</p>
      {kind.keyed && <KeyChoice row={row} step={step} doc={p.doc} />}
      {kind.shaped && <ShapeEditor row={row} step={step} doc={p.doc} />}
      {step.kind === "equalizer" ? (
        <BandNumbers at={at} row={row.row} step={step} params={kind.params} />
      ) : (
        kind.params
          .filter((param) => shown(param, step))
          .map((param) => (
            <ParamField
              key={param.id}
              param={param}
              at={at}
              value={step.values[param.id] ?? 0}
              percent={param.id === "pan"}
              {...(param.unit === "Hz" ? { digits: 0 } : {})}
            />
          ))
      )}
      <Moves
        doc={p.doc}
        numbers={kind.params
          .filter((q) => q.scale !== "steps" && q.scale !== "switch" && shown(q, step) && worksIn(q.id, step))
          .map((q) => ({ at: `${at}/${q.id}`, param: q, label: q.label, value: step.values[q.id] ?? 0 }))}
      />
      {(step.paths ?? []).map((path, i) => (
        <Path
          // biome-ignore lint/suspicious/noArrayIndexKey: a path is its place
          key={i}
          row={row}
          step={step}
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
      return "grey: the row's own sound; line: what is added and taken, third octaves";
    case "transfer":
      return "what comes out over what goes in";
    case "time":
      return "grey before, colour after, red what is taken; a third of a second of this row";
  }
  return "measuring…";
}

/** Of an equalizer only the bands that are on. */
function worksIn(id: string, s: Step): boolean {
  const band = /^(band\d)\./.exec(id)?.[1];
  return !band || (s.values[`${band}.shape`] ?? 0) !== 0;
}

/** Numbers that only mean something with certain others. */
function shown(p: Param, s: Step): boolean {
  const v = (id: string) => s.values[id] ?? 0;
  if (s.kind === "gate") {
    if (p.id === "ratio") return v("way") === 1;
    if (p.id === "hysteresis_db") return v("way") === 0;
  }
  if (s.kind === "tremolo" || s.kind === "echo") {
    const free = v("time") === 1;
    if (p.id === "beats") return !free;
    if (p.id === "rate_hz" || p.id === "time_ms") return free;
  }
  if (s.kind === "reverb" && p.id === "gate_release_ms") return v("gate_ms") > 0;
  return true;
}

function KeyChoice({ row, step, doc }: { row: MixRow; step: Step; doc: Document }) {
  const edit = useProject((s) => s.edit);
  return (
    <label className="flex items-center gap-2 py-1 text-[13px]">
      <span className="grow">Steered by</span>
      <select
        className="press h-7 max-w-[150px] px-1.5 text-[13px]"
        aria-label="Steered by"
        title="Its own sound, or another voice's before its chain, also a muted one's"
        value={step.key ?? ""}
        onChange={(e) => edit([{ op: "chain.key", row: row.row, step: step.id, key: e.target.value }])}
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
      </select>
    </label>
  );
}

/** The numbers of one band at a time. */
function BandNumbers({ at, row, step, params }: { at: string; row: string; step: Step; params: Param[] }) {
  // At first the lowest band that is not off.
  const [band, setBand] = useState(
    () => [1, 2, 3, 4, 5, 6, 7, 8].find((n) => step.values[`band${n}.shape`]) ?? 1,
  );
  const [alone, setAlone] = useState(false);
  const hear = (n: number, on: boolean) => monitor.hearBand(row, step.id, on ? n - 1 : -1);
  useEffect(() => () => monitor.hearBand(row, step.id, -1), [row, step.id]);
  const shape = step.values[`band${band}.shape`] ?? 0;
  const cut = shape === 4 || shape === 5;
  const ids = ["shape", "hz", ...(cut ? ["slope"] : shape === 6 ? [] : ["gain_db"]), "q", "side"];
  if (!cut && shape !== 6) ids.push("above_db");
  const mix = params.find((q) => q.id === "mix_percent");
  return (
    <div>
      <fieldset className="flex gap-0.5 py-1" aria-label="Band">
        {Array.from({ length: 8 }, (_, i) => i + 1).map((n) => (
          <button
            key={n}
            type="button"
            aria-pressed={n === band}
            className={`num h-7 grow cursor-pointer rounded border text-[12px] ${
              n === band ? "border-neutral bg-neutral text-neutral-content" : "border-line bg-base-100"
            } ${(step.values[`band${n}.shape`] ?? 0) === 0 ? "opacity-50" : ""}`}
            title={(step.values[`band${n}.shape`] ?? 0) === 0 ? "off" : ""}
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
          className={`press h-7 px-2 text-[12px] ${alone ? "bg-row!" : ""}`}
          aria-pressed={alone}
          title="Only the part of the spectrum that this band is about"
          onClick={() => {
            setAlone(!alone);
            hear(band, !alone);
          }}
        >
          {alone ? `You hear band ${band} alone` : `Hear band ${band} alone`}
        </button>
      )}
      {ids.map((id) => {
        const param = params.find((q) => q.id === `band${band}.${id}`);
        if (!param || (shape === 0 && id !== "shape")) return null;
        return (
          <ParamField
            key={id}
            param={param}
            at={at}
            label={param.label.replace(/^Band \d+ /, "").replace(/^./, (c) => c.toUpperCase())}
            value={step.values[param.id] ?? 0}
            {...(id === "hz" ? { digits: 0 } : {})}
            {...(id === "above_db"
              ? { hint: "The band comes in only where its part of the spectrum is louder; −80 always" }
              : {})}
          />
        );
      })}
      {mix && <ParamField param={mix} at={at} value={step.values.mix_percent ?? 100} />}
    </div>
  );
}

/** A chain within a step. */
function Path(p: { row: MixRow; step: Step; path: Step[]; place: number; info: Info }) {
  const edit = useProject((s) => s.edit);
  const set = useChosen((c) => c.set);
  const names =
    p.step.kind === "parallel"
      ? ["The copy goes through"]
      : p.step.kind === "split"
        ? ["Lows go through", "Highs go through"]
        : ["Lows go through", "Mids go through", "Highs go through"];
  return (
    <div className="border-t border-line pt-1">
      <h3 className="text-[12px] text-muted">{names[p.place]}</h3>
      <div className="flex flex-wrap items-center gap-1">
        {p.path.map((s) => (
          <button
            key={s.id}
            type="button"
            className={`press h-7 px-2 text-[12px] ${s.off ? "line-through" : ""}`}
            onClick={() => set({ step: s.id })}
          >
            {p.info.steps.find((k) => k.id === s.kind)?.label ?? s.kind}
          </button>
        ))}
        <AddStep
          info={p.info}
          name={`Add a step to path ${p.place + 1}`}
          onAdd={(kind) => {
            edit([
              { op: "chain.add", row: p.row.row, kind, to: p.path.length, in: p.step.id, path: p.place },
            ]);
            set({ step: freeStep(p.row, kind) });
          }}
        />
      </div>
    </div>
  );
}
