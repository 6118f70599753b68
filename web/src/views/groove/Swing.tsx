// The swing that all voices share, and how much of the feel is applied.
import type { State } from "../../api/client";
import { Choice } from "../../parts/Choice";
import { useProject } from "../../state/project";
import { useCompare } from "../../state/queries";
import { Beside, Feel, HearOnly } from "./FeelParts";

export function Swing({ state }: { state: State }) {
  const edit = useProject((p) => p.edit);
  const rows = useCompare().data?.rows ?? [];
  const row = (id: string) => rows.find((r) => r.id === id);
  const { feel } = state.document.groove;
  const own = Object.entries(feel.voices).filter(([, v]) => (v.swing_percent ?? 0) > 0);
  return (
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
  );
}
