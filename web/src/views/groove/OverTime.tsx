// What of the feel is random, and what moves over bars.
import type { State, Voice } from "../../api/client";
import { Choice } from "../../parts/Choice";
import { useProject } from "../../state/project";
import { Ending, HearOnly, Moved, names } from "./FeelParts";
import { OverBars } from "./plots";

/** What moves over the bars: by how much, what of it, and how it ends. */
interface Course {
  curve: number[];
  voices: string[];
  stays: boolean;
  save: (course: Pick<Course, "curve" | "voices" | "stays">, gesture: string) => void;
}

export function OverTime({ state, voice }: { state: State; voice: Voice }) {
  const edit = useProject((p) => p.edit);
  const { feel } = state.document.groove;
  const scattered = Object.values(feel.voices).some((v) => v.scatter_ms > 0 || v.velocity_scatter > 0);
  const drift: Course = {
    curve: feel.drift.curve_ms,
    voices: feel.drift.voices,
    stays: feel.drift.stays ?? false,
    save: ({ curve, voices, stays }, gesture) =>
      edit([{ op: "feel.drift", curve_ms: curve, voices, stays }], gesture),
  };
  const ramp: Course = {
    curve: feel.ramp?.curve_percent ?? [],
    voices: feel.ramp?.voices ?? [],
    stays: feel.ramp?.stays ?? false,
    save: ({ curve, voices, stays }, gesture) =>
      edit([{ op: "feel.ramp", curve_percent: curve, voices, stays }], gesture),
  };
  const bars = Math.min(state.document.groove.bars, 16);
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
          Drift over bars, ms{names(state, drift.voices)}
        </span>
        <HearOnly part="drift" />
      </p>
      <DrawnOverBars of="Drift" course={drift} voice={voice} bars={bars} most={30} unit="ms" />
      <p className="mt-1 flex items-center gap-1 text-xs">
        <span className="grow">Velocity over bars, %{names(state, ramp.voices)}</span>
        <HearOnly part="ramp" />
      </p>
      <DrawnOverBars of="Velocity" course={ramp} voice={voice} bars={bars} most={60} unit="%" />
      <p className="text-2xs text-muted">
        Drag the points: {voice.name} is moved; double click takes it away.
      </p>
      <Moved
        state={state}
        rows={[
          ["drift", drift.voices, (voices) => drift.save({ ...drift, voices }, "")],
          ["velocity", ramp.voices, (voices) => ramp.save({ ...ramp, voices }, "")],
        ]}
      />
    </section>
  );
}

/** A course that is drawn; who draws the first point moves the voice in hand. */
function DrawnOverBars(p: {
  of: string;
  course: Course;
  voice: Voice;
  bars: number;
  most: number;
  unit: string;
}) {
  const { curve, voices, save } = p.course;
  const withVoice = voices.includes(p.voice.id) ? voices : [...voices, p.voice.id];
  return (
    <>
      <OverBars
        label={`${p.of} over bars`}
        curve={curve}
        bars={p.bars}
        most={p.most}
        unit={p.unit}
        onChange={(curve, gesture) =>
          save({ ...p.course, curve, voices: curve.length > 0 ? withVoice : [] }, gesture)
        }
      />
      {curve.length > 0 && (
        <Ending of={p.of} stays={p.course.stays} onChange={(stays) => save({ ...p.course, stays }, "")} />
      )}
    </>
  );
}
