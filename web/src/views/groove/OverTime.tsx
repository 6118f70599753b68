// What of the feel is random, and what moves over bars.
import type { State, Voice } from "../../api/client";
import { Choice } from "../../parts/Choice";
import { useProject } from "../../state/project";
import { Ending, HearOnly, Moved, names } from "./FeelParts";
import { OverBars } from "./plots";

export function OverTime({ state, voice }: { state: State; voice: Voice }) {
  const edit = useProject((p) => p.edit);
  const { feel } = state.document.groove;
  const scattered = Object.values(feel.voices).some((v) => v.scatter_ms > 0 || v.velocity_scatter > 0);
  const drifting = feel.drift.voices;
  const ramped = feel.ramp?.voices ?? [];
  const withVoice = (list: string[]) => (list.includes(voice.id) ? list : [...list, voice.id]);
  return (
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
            edit([{ op: "feel.ramp", curve_percent: feel.ramp?.curve_percent ?? [], voices: ramped, stays }])
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
  );
}
