// Right of the groove: the feel of the whole and of the selected voice, with
// what the reference has beside each value.

import { useQueryClient } from "@tanstack/react-query";
import { Ear } from "lucide-react";
import { useState } from "react";
import { api, type Row, type State } from "../../api/client";
import { monitor, useMonitor } from "../../live/monitor";
import type { FeelPart } from "../../live/wire";
import { Choice } from "../../parts/Choice";
import { num } from "../../parts/format";
import { ParamField } from "../../parts/ParamField";
import { useParam } from "../../state/numbers";
import { useProject } from "../../state/project";
import { useCompare } from "../../state/queries";
import { barSteps } from "./layout";
import { OverBars, Steps } from "./plots";
import { chosen, useSelection } from "./selection";

function Beside({ row, digits = 1 }: { row: Row | undefined; digits?: number }) {
  const compare = useCompare();
  // Keeps its place while it is measured, so that nothing below moves under the hand.
  if (!row) return compare.isLoading ? <p className="h-[18px]" /> : null;
  if (row.reference === null)
    return <p className="text-[11px] text-muted">reference: {row.why || "not enough to say"}</p>;
  return (
    <p className="flex justify-between text-[12px]">
      <span className="text-ref">
        reference <span className="num">{num(row.reference, digits)}</span>
      </span>
      {row.difference !== null && (
        <span className={row.inside ? "text-success" : "font-semibold text-error"}>
          <span className="num">{num(row.difference, digits, true)}</span> {row.inside ? "inside" : "outside"}
        </span>
      )}
    </p>
  );
}

type FeelProps = Omit<React.ComponentProps<typeof ParamField>, "param"> & {
  id: string;
  table: "feel" | "voice_feel" | "hit";
};

function Feel({ id, table, ...more }: FeelProps) {
  const param = useParam(table, id);
  return param && <ParamField param={param} {...more} />;
}

/** Whether a curve over bars goes back to its first value in its last bar, or stays. */
function Ending(p: { of: string; stays: boolean; onChange: (stays: boolean) => void }) {
  return (
    <select
      className="press h-6 px-1 text-[11px]"
      aria-label={`${p.of}: how it ends`}
      title="In the last bar: back to the first value, or the last one to its end"
      value={p.stays ? "stays" : "round"}
      onChange={(e) => p.onChange(e.target.value === "stays")}
    >
      <option value="round">goes round</option>
      <option value="stays">ends and stays</option>
    </select>
  );
}

/** Hears one part of the feel alone, or all again. */
function HearOnly({ part }: { part: FeelPart }) {
  const hear = useMonitor((m) => m.hear);
  const on = hear?.length === 1 && hear[0] === part;
  return (
    <button
      type="button"
      className={`cursor-pointer rounded px-1 ${on ? "bg-primary text-primary-content" : "text-muted hover:bg-base-300"}`}
      aria-pressed={on}
      aria-label={`Hear only ${part.replace("_", " ")}`}
      title="Hear only this part of the feel"
      onClick={() => monitor.setHear(on ? null : [part])}
    >
      <Ear size={12} />
    </button>
  );
}

const parts: [FeelPart, string][] = [
  ["swing", "Swing"],
  ["lean", "Lean"],
  ["contour", "Contour"],
  ["drift", "Drift"],
  ["scatter", "Scatter"],
  ["accent", "Accents"],
];

export function FeelPanel({ state }: { state: State }) {
  const edit = useProject((p) => p.edit);
  const sel = useSelection();
  const hear = useMonitor((m) => m.hear);
  const rows = useCompare().data?.rows ?? [];
  const row = (id: string) => rows.find((r) => r.id === id);
  const feel = state.document.groove.feel;
  const voice = state.document.kit.voices.find((v) => v.id === sel.voice) ?? state.document.kit.voices[0];
  const picked = chosen(state, sel.hits);
  const one = picked[0];
  if (!voice) return null;
  const vf = feel.voices[voice.id];
  const at = `groove/feel/${voice.id}`;
  const set = (number: string) => (value: number, gesture: string) =>
    edit([{ op: "hit.set", hits: sel.hits, number, value }], gesture);
  const scattered = Object.values(feel.voices).some((v) => v.scatter_ms > 0 || v.velocity_scatter > 0);
  const steps = barSteps(state.document);
  const own = Object.entries(feel.voices).filter(([, v]) => (v.swing_percent ?? 0) > 0);
  const drifting = feel.drift.voices;
  const ramped = feel.ramp?.voices ?? [];
  const withVoice = (list: string[]) => (list.includes(voice.id) ? list : [...list, voice.id]);
  const sources: [string, string, string][] = [
    ...state.document.references.map((r): [string, string, string] => ["reference", r.id, r.name]),
    ...state.document.variations
      .filter((v) => v.id !== state.document.variation && !v.here)
      .map((v): [string, string, string] => ["variation", v.id, `Variation ${v.id.toUpperCase()}`]),
  ];
  return (
    <section className="flex flex-col gap-3" aria-label="Feel">
      <div className="flex items-center">
        <h2 className="grow text-[17px]">Feel</h2>
        <button
          type="button"
          className={`press h-7 px-2 text-[12px] ${hear ? "bg-row!" : ""}`}
          aria-pressed={hear !== null}
          title="Off and on at the same spot (E)"
          onClick={() => monitor.setHear(hear ? null : [])}
        >
          {hear === null ? "Off" : hear.length === 0 ? "It is off: on" : "Hear all"}
        </button>
      </div>
      <section>
        <div className="mb-1 flex items-center justify-between">
          <span className="text-[12px] text-muted">Swing acts on</span>
          <Choice
            label="Pairs that swing"
            value={feel.pair}
            options={[
              [8, "8ths"],
              [16, "16ths"],
            ]}
            onChange={(value) => edit([{ op: "feel.pair", pair: value }])}
          />
        </div>
        <Feel
          id="swing_percent"
          table="feel"
          at="groove/feel"
          value={feel.swing_percent}
          hint="50 straight, 66.7 triplet"
        />
        <Beside row={row("swing")} />
        <p className="flex items-center gap-1 text-[12px] text-muted">
          <HearOnly part="swing" />
          {own.length === 0 ? (
            <span>everything swings alike</span>
          ) : (
            <>
              <span className="grow">
                {own.length} of {state.document.kit.voices.length} swing on their own
              </span>
              <button
                type="button"
                className="press h-6 px-2 text-[11px]"
                onClick={() => edit([{ op: "feel.alike" }])}
              >
                All alike
              </button>
            </>
          )}
        </p>
        <Feel
          id="strength_percent"
          table="feel"
          at="groove/feel"
          value={feel.strength_percent}
          step={5}
          digits={0}
          hint="How much of swing, lean, contour and drift is applied"
        />
      </section>
      <section className="border-t border-line pt-2">
        <h3 className="flex items-center gap-1 text-[14px]">
          <span className="grow">{voice.name}</span>
          <HearOnly part="lean" />
        </h3>
        <Feel id="lean_ms" table="voice_feel" at={at} value={vf?.lean_ms ?? 0} hint="Late is positive" />
        <Beside row={row(`lean.${voice.family}`)} />
        <Feel
          id="scatter_ms"
          table="voice_feel"
          at={at}
          value={vf?.scatter_ms ?? 0}
          hint="Random, the same on every render"
        />
        <Beside row={row(`scatter.${voice.family}`)} />
        <p className="flex items-center gap-1 text-[12px] text-muted">
          <span className="grow">hear only scatter, of time and of velocity</span>
          <HearOnly part="scatter" />
          <HearOnly part="velocity_scatter" />
        </p>
        <Feel id="velocity_scatter" table="voice_feel" at={at} value={vf?.velocity_scatter ?? 0} step={1} />
        <Feel
          id="swing_percent"
          table="voice_feel"
          at={at}
          value={vf?.swing_percent ?? 0}
          hint="0 swings as all do; else 25 to 75"
          onChange={(v, g) =>
            edit([{ op: "number.set", at: `${at}/swing_percent`, value: v > 0 ? Math.max(v, 25) : 0 }], g)
          }
        />
        <p className="mt-1 flex items-center gap-1 text-[12px]">
          <span className="grow">Contour by step, ms</span>
          <HearOnly part="contour" />
        </p>
        <Steps
          label={`Contour of ${voice.name} by step`}
          values={vf?.contour_ms ?? []}
          steps={steps}
          rest={0}
          most={20}
          unit="ms"
          onChange={(values, g) => edit([{ op: "feel.table", voice: voice.id, table: "contour", values }], g)}
        />
        <p className="mt-1 flex items-center gap-1 text-[12px]">
          <span className="grow">Accents by step, × velocity</span>
          <HearOnly part="accent" />
        </p>
        <Steps
          label={`Accents of ${voice.name} by step`}
          values={vf?.accent ?? []}
          steps={steps}
          rest={1}
          most={2}
          unit="×"
          onChange={(values, g) =>
            edit(
              [
                {
                  op: "feel.table",
                  voice: voice.id,
                  table: "accent",
                  values: values.map((v) => Math.max(v, 0)),
                },
              ],
              g,
            )
          }
        />
      </section>
      <section className="border-t border-line pt-2">
        <div className="flex items-center justify-between">
          <span className="text-[13px]">Scatter is</span>
          <Choice
            label="Kind of scatter"
            value={feel.scatter_kind}
            options={[
              ["white", "Free", "Each hit by itself"],
              ["pink", "Linked", "Long-range correlated, as played by people"],
            ]}
            onChange={(kind) => edit([{ op: "feel.scatter_kind", kind }])}
          />
        </div>
        <div className="mt-2 flex gap-2">
          <button
            type="button"
            className="press"
            disabled={!scattered}
            title="Other random numbers, the same amounts"
            onClick={() => edit([{ op: "feel.seed", seed: state.document.groove.seed + 1 }])}
          >
            Another take
          </button>
          <button
            type="button"
            className="press"
            title="No swing, lean, scatter"
            onClick={() => edit([{ op: "feel.straight" }])}
          >
            Straight
          </button>
        </div>
        <p className="mt-2 flex items-center gap-1 text-[12px]">
          <span className="grow">Drift over bars, ms{names(state, drifting)}</span>
          <HearOnly part="drift" />
        </p>
        <OverBars
          label="Drift over bars"
          curve={feel.drift.curve_ms}
          bars={Math.min(state.document.groove.bars, 16)}
          most={30}
          unit="ms"
          onChange={(curve, g) =>
            edit(
              [
                {
                  op: "feel.drift",
                  curve_ms: curve,
                  voices: curve.length ? withVoice(drifting) : [],
                  stays: feel.drift.stays ?? false,
                },
              ],
              g,
            )
          }
        />
        {feel.drift.curve_ms.length > 0 && (
          <Ending
            of="Drift"
            stays={feel.drift.stays ?? false}
            onChange={(stays) =>
              edit([{ op: "feel.drift", curve_ms: feel.drift.curve_ms, voices: drifting, stays }])
            }
          />
        )}
        <p className="mt-1 flex items-center gap-1 text-[12px]">
          <span className="grow">Velocity over bars, %{names(state, ramped)}</span>
          <HearOnly part="ramp" />
        </p>
        <OverBars
          label="Velocity over bars"
          curve={feel.ramp?.curve_percent ?? []}
          bars={Math.min(state.document.groove.bars, 16)}
          most={60}
          unit="%"
          onChange={(curve, g) =>
            edit(
              [
                {
                  op: "feel.ramp",
                  curve_percent: curve,
                  voices: curve.length ? withVoice(ramped) : [],
                  stays: feel.ramp?.stays ?? false,
                },
              ],
              g,
            )
          }
        />
        {(feel.ramp?.curve_percent.length ?? 0) > 0 && (
          <Ending
            of="Velocity"
            stays={feel.ramp?.stays ?? false}
            onChange={(stays) =>
              edit([
                { op: "feel.ramp", curve_percent: feel.ramp?.curve_percent ?? [], voices: ramped, stays },
              ])
            }
          />
        )}
        <p className="text-[11px] text-muted">
          Drag the points: {voice.name} is moved; double click takes it away.
        </p>
        {(drifting.length > 0 || ramped.length > 0) && (
          <Moved
            state={state}
            rows={[
              [
                "drift",
                drifting,
                (voices) =>
                  edit([
                    {
                      op: "feel.drift",
                      curve_ms: feel.drift.curve_ms,
                      voices,
                      stays: feel.drift.stays ?? false,
                    },
                  ]),
              ],
              [
                "velocity",
                ramped,
                (voices) =>
                  edit([
                    {
                      op: "feel.ramp",
                      curve_percent: feel.ramp?.curve_percent ?? [],
                      voices,
                      stays: feel.ramp?.stays ?? false,
                    },
                  ]),
              ],
            ]}
          />
        )}
      </section>
      <section className="border-t border-line pt-2">
        <h3 className="mb-1 text-[13px]">Feel and hits</h3>
        <div className="flex flex-wrap gap-1">
          <button
            type="button"
            className="press h-7 px-2 text-[12px]"
            title="Everything later by 5 ms (J); earlier with Shift J"
            onClick={() => edit([{ op: "feel.pull", by_ms: 5 }])}
          >
            Pull back 5 ms
          </button>
          <button
            type="button"
            className="press h-7 px-2 text-[12px]"
            title="What is systematic in nudges becomes swing, lean, contour and drift; each hit falls where it did"
            onClick={() => edit([{ op: "feel.apart" }])}
          >
            Take out of hits
          </button>
          <button
            type="button"
            className="press h-7 px-2 text-[12px]"
            title="The feel becomes nudges and velocities of the hits"
            onClick={() => edit([{ op: "feel.freeze" }])}
          >
            Freeze into hits
          </button>
        </div>
        <SaveFeel project={state.id} />
        {sources.length > 0 && (
          <div className="mt-2">
            <p className="text-[12px] text-muted">Take a part of the feel:</p>
            <TakePart sources={sources} voice={voice.id} voiceName={voice.name} />
          </div>
        )}
      </section>
      <section className="border-t border-line pt-2">
        <h3 className="text-[14px]">
          {picked.length === 0 ? "No hit selected" : picked.length === 1 ? "1 hit" : `${picked.length} hits`}
        </h3>
        {one ? (
          <>
            <Feel id="velocity" table="hit" at="" value={one.hit.velocity} onChange={set("velocity")} />
            <Feel
              id="nudge_ms"
              table="hit"
              at=""
              value={one.hit.nudge_ms}
              step={1}
              onChange={set("nudge_ms")}
            />
            <Feel
              id="semitones"
              table="hit"
              at=""
              value={one.hit.semitones}
              digits={0}
              step={1}
              onChange={(v, g) => set("semitones")(Math.round(v), g)}
            />
          </>
        ) : (
          <p className="text-[12px] text-muted">
            Click a row to place a hit: height is velocity. Drag a head up or down, or along; with Alt to
            nudge.
          </p>
        )}
      </section>
    </section>
  );
}

const names = (state: State, voices: string[]) =>
  voices.length > 0
    ? `: ${voices.map((id) => state.document.kit.voices.find((v) => v.id === id)?.name ?? id).join(", ")}`
    : "";

/** Which voices a curve over bars moves. */
function Moved(p: { state: State; rows: [string, string[], (voices: string[]) => void][] }) {
  return p.rows
    .filter(([, voices]) => voices.length > 0)
    .map(([what, voices, set]) => (
      <div key={what} className="mt-1 flex flex-wrap items-center gap-1 text-[11px]">
        <span className="text-muted">{what} moves</span>
        {p.state.document.kit.voices.map((v) => {
          const on = voices.includes(v.id);
          return (
            <button
              key={v.id}
              type="button"
              className={`press h-6 px-1.5 text-[11px] ${on ? "bg-row!" : ""}`}
              aria-pressed={on}
              aria-label={`${what} moves ${v.name}`}
              onClick={() => set(on ? voices.filter((id) => id !== v.id) : [...voices, v.id])}
            >
              {v.name}
            </button>
          );
        })}
      </div>
    ));
}

/** Keeps the groove's own feel in the library. */
function SaveFeel({ project }: { project: string }) {
  const tell = useProject((s) => s.tell);
  const queries = useQueryClient();
  const [name, setName] = useState("");
  return (
    <div className="mt-2 flex gap-1">
      <input
        className="press h-7 min-w-0 grow cursor-text px-2 text-[12px]"
        aria-label="Name of this feel"
        placeholder="name of this feel"
        value={name}
        onChange={(e) => setName(e.target.value)}
      />
      <button
        type="button"
        className="press h-7 px-2 text-[12px]"
        disabled={name.trim() === ""}
        onClick={async () => {
          try {
            const saved = await api.saveFeel(project, name.trim());
            await queries.invalidateQueries({ queryKey: ["profiles"] });
            tell(`“${saved.name}” is in the library now.`, "info");
            setName("");
          } catch (e) {
            tell((e as Error).message);
          }
        }}
      >
        Save feel
      </button>
    </div>
  );
}

/** Swing from here, the snare's lean from there. */
function TakePart(p: { sources: [string, string, string][]; voice: string; voiceName: string }) {
  const edit = useProject((s) => s.edit);
  const [part, setPart] = useState<FeelPart>("swing");
  const [from, setFrom] = useState(0);
  const [only, setOnly] = useState(false);
  const source = p.sources[Math.min(from, p.sources.length - 1)];
  return (
    <div className="flex flex-wrap items-center gap-1 text-[12px]">
      <select
        className="press h-7 px-1.5 text-[12px]"
        aria-label="Part of the feel"
        value={part}
        onChange={(e) => setPart(e.target.value as FeelPart)}
      >
        {parts.map(([id, text]) => (
          <option key={id} value={id}>
            {text}
          </option>
        ))}
      </select>
      from
      <select
        className="press h-7 max-w-[120px] px-1.5 text-[12px]"
        aria-label="Taken from"
        value={from}
        onChange={(e) => setFrom(Number(e.target.value))}
      >
        {p.sources.map(([kind, id, name], i) => (
          <option key={`${kind} ${id}`} value={i}>
            {name}
          </option>
        ))}
      </select>
      <label className="flex items-center gap-1">
        <input
          type="checkbox"
          className="checkbox checkbox-xs"
          checked={only}
          onChange={(e) => setOnly(e.target.checked)}
        />
        only {p.voiceName}
      </label>
      <button
        type="button"
        className="press h-7 px-2 text-[12px]"
        onClick={() =>
          source &&
          edit([
            { op: "feel.take", from: source[0], id: source[1], parts: [part], voices: only ? [p.voice] : [] },
          ])
        }
      >
        Take
      </button>
    </div>
  );
}
