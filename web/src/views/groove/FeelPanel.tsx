import type { State } from "../../api/client";
import { monitor, useMonitor } from "../../live/monitor";
import { Choice } from "../../parts/Choice";
import { useProject } from "../../state/project";
import { useCompare } from "../../state/queries";
import { chosen, useSelection } from "../../state/selection";
import { TakePart } from "./CopyComponent";
import { Beside, Ending, Feel, HearOnly, Moved, names } from "./FeelParts";
import { barSteps } from "./layout";
import { OverBars, Steps } from "./plots";
import { SaveFeel } from "./SaveFeel";

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
        <h2 className="grow text-xl">Feel</h2>
        <button
          type="button"
          className={`press h-7 px-2 text-xs ${hear ? "bg-row!" : ""}`}
          aria-pressed={hear !== null}
          title="Off and on at the same spot (E)"
          onClick={() => monitor.setHear(hear ? null : [])}
        >
          {hear === null ? "Off" : hear.length === 0 ? "It is off: on" : "Hear all"}
        </button>
      </div>
      <section>
        <div className="mb-1 flex items-center justify-between">
          <span className="text-xs text-muted">Swing acts on</span>
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
        <p className="flex items-center gap-1 text-xs text-muted">
          <HearOnly part="swing" />
          {own.length === 0 ? (
            <span>all voices use this swing</span>
          ) : (
            <>
              <span className="grow">
                {own.length} of {state.document.kit.voices.length} swing on their own
              </span>
              <button
                type="button"
                className="press h-6 px-2 text-2xs"
                onClick={() => edit([{ op: "feel.alike" }])}
              >
                Reset to shared swing
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
        <h3 className="flex items-center gap-1 text-base">
          <span className="grow">{voice.name}</span>
          <HearOnly part="lean" />
        </h3>
        <Feel
          id="lean_ms"
          table="voice_feel"
          at={at}
          value={vf?.lean_ms ?? 0}
          hint="How late (+) or early (−) this voice plays as a whole"
        />
        <Beside row={row(`lean.${voice.family}`)} />
        <Feel
          id="scatter_ms"
          table="voice_feel"
          at={at}
          value={vf?.scatter_ms ?? 0}
          hint="Random spread of the timing; the same on every render"
        />
        <Beside row={row(`scatter.${voice.family}`)} />
        <p className="flex items-center gap-1 text-xs text-muted">
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
        <p className="mt-1 flex items-center gap-1 text-xs">
          <span className="grow" title="Late or early, step by step">
            Contour by step, ms
          </span>
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
        <p className="mt-1 flex items-center gap-1 text-xs">
          <span className="grow" title="Louder or softer, step by step">
            Accents by step, × velocity
          </span>
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
          <span className="text-sm">Scatter is</span>
          <Choice
            label="Kind of scatter"
            value={feel.scatter_kind}
            options={[
              ["white", "Independent", "Each hit by itself"],
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
            New seed
          </button>
          <button
            type="button"
            className="press"
            title="No swing, lean, scatter"
            onClick={() => edit([{ op: "feel.straight" }])}
          >
            Reset feel
          </button>
        </div>
        <p className="mt-2 flex items-center gap-1 text-xs">
          <span className="grow" title="Slow push and pull over bars">
            Drift over bars, ms{names(state, drifting)}
          </span>
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
        <p className="mt-1 flex items-center gap-1 text-xs">
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
        <p className="text-2xs text-muted">
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
        <h3 className="mb-1 text-sm">Feel and hits</h3>
        <div className="flex flex-wrap gap-1">
          <button
            type="button"
            className="press h-7 px-2 text-xs"
            title="Everything later by 5 ms (J); earlier with Shift J"
            onClick={() => edit([{ op: "feel.pull", by_ms: 5 }])}
          >
            Pull back 5 ms
          </button>
          <button
            type="button"
            className="press h-7 px-2 text-xs"
            title="Moves the regular part of the nudges into swing, lean, contour and drift. Nothing changes its timing."
            onClick={() => edit([{ op: "feel.apart" }])}
          >
            Extract feel from hits
          </button>
          <button
            type="button"
            className="press h-7 px-2 text-xs"
            title="The feel becomes nudges and velocities of the hits"
            onClick={() => edit([{ op: "feel.freeze" }])}
          >
            Freeze into hits
          </button>
        </div>
        <SaveFeel project={state.id} />
        {sources.length > 0 && (
          <div className="mt-2">
            <p className="text-xs text-muted">Copy one component:</p>
            <TakePart sources={sources} voice={voice.id} voiceName={voice.name} />
          </div>
        )}
      </section>
      <section className="border-t border-line pt-2">
        <h3 className="text-base">
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
          <p className="text-xs text-muted">
            Click a row to place a hit: height is velocity. Drag a head up or down, or along; with Alt to
            nudge.
          </p>
        )}
      </section>
    </section>
  );
}
