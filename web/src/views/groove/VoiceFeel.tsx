// The feel of one voice: lean, scatter, swing of its own, contour and accents by step.
import type { State, Voice } from "../../api/client";
import { useProject } from "../../state/project";
import { useCompare } from "../../state/queries";
import { Beside, Feel, HearOnly } from "./FeelParts";
import { barSteps } from "./layout";
import { Steps } from "./plots";

export function VoiceFeel({ state, voice }: { state: State; voice: Voice }) {
  const edit = useProject((p) => p.edit);
  const rows = useCompare().data?.rows ?? [];
  const row = (id: string) => rows.find((r) => r.id === id);
  const vf = state.document.groove.feel.voices[voice.id];
  const at = `groove/feel/${voice.id}`;
  const steps = barSteps(state.document);
  return (
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
  );
}
