// Right of the groove: the feel of the whole and of the selected voice, with
// what the reference has beside each value.
import type { Row, State } from "../../api/client";
import { Choice } from "../../parts/Choice";
import { num } from "../../parts/format";
import { NumberField } from "../../parts/NumberField";
import { useProject } from "../../state/project";
import { useCompare } from "../../state/queries";
import { chosen, useSelection } from "./selection";

function Beside({ row, digits = 1 }: { row: Row | undefined; digits?: number }) {
  if (!row) return null;
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

export function FeelPanel({ state }: { state: State }) {
  const edit = useProject((p) => p.edit);
  const sel = useSelection();
  const rows = useCompare().data?.rows ?? [];
  const row = (id: string) => rows.find((r) => r.id === id);
  const feel = state.document.groove.feel;
  const voice = state.document.kit.voices.find((v) => v.id === sel.voice) ?? state.document.kit.voices[0];
  const picked = chosen(state, sel.hits);
  const one = picked[0];
  if (!voice) return null;
  const vf = feel.voices[voice.id];
  const scattered = Object.values(feel.voices).some((v) => v.scatter_ms > 0 || v.velocity_scatter > 0);
  return (
    <aside
      className="flex w-[268px] shrink-0 flex-col gap-3 overflow-y-auto border-l border-line bg-base-200 px-4 py-3"
      aria-label="Feel"
    >
      <h2 className="text-[17px]">Feel</h2>
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
            onChange={(value) => edit([{ op: "feel.pair", value }])}
          />
        </div>
        <NumberField
          label="Swing"
          value={feel.swing_percent}
          unit="%"
          min={25}
          max={75}
          reset={50}
          step={0.5}
          hint="50 straight, 66.7 triplet"
          onChange={(value, g) => edit([{ op: "feel.swing", value }], g)}
        />
        <Beside row={row("swing")} />
        <NumberField
          label="Strength"
          value={feel.strength_percent}
          unit="%"
          min={0}
          max={100}
          reset={100}
          step={5}
          digits={0}
          hint="How much of swing, lean, contour and drift is applied"
          onChange={(value, g) => edit([{ op: "feel.strength", value }], g)}
        />
      </section>
      <section className="border-t border-line pt-2">
        <h3 className="text-[14px]">{voice.name}</h3>
        <NumberField
          label="Lean"
          value={vf?.lean_ms ?? 0}
          unit="ms"
          min={-100}
          max={100}
          reset={0}
          step={1}
          hint="Late is positive"
          onChange={(value, g) => edit([{ op: "feel.lean", voice: voice.id, value }], g)}
        />
        <Beside row={row(`Lean.${voice.family}`)} />
        <NumberField
          label="Scatter"
          value={vf?.scatter_ms ?? 0}
          unit="ms"
          min={0}
          max={50}
          reset={0}
          step={0.5}
          hint="Random, the same on every render"
          onChange={(value, g) => edit([{ op: "feel.scatter", voice: voice.id, value }], g)}
        />
        <Beside row={row(`Scatter.${voice.family}`)} />
        <NumberField
          label="Velocity scatter"
          value={vf?.velocity_scatter ?? 0}
          unit=""
          min={0}
          max={64}
          reset={0}
          step={1}
          onChange={(value, g) => edit([{ op: "feel.velocity_scatter", voice: voice.id, value }], g)}
        />
        {(vf?.contour_ms?.length ?? 0) > 0 && (
          <p className="text-[12px] text-muted">
            A contour of {vf?.contour_ms.length} steps was taken from the reference.
          </p>
        )}
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
            onChange={(text) => edit([{ op: "feel.scatter_kind", text }])}
          />
        </div>
        <div className="mt-2 flex gap-2">
          <button
            type="button"
            className="press"
            disabled={!scattered}
            title="Other random numbers, the same amounts"
            onClick={() => edit([{ op: "feel.seed", value: state.document.groove.seed + 1 }])}
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
        {feel.drift.curve_ms.length > 0 && (
          <p className="mt-2 text-[12px] text-muted">
            Drift over {feel.drift.curve_ms.length} bars:{" "}
            <span className="num">{feel.drift.curve_ms.map((c) => num(c, 0, true)).join(", ")}</span> ms
          </p>
        )}
      </section>
      <section className="border-t border-line pt-2">
        <h3 className="text-[14px]">
          {picked.length === 0 ? "No hit selected" : picked.length === 1 ? "1 hit" : `${picked.length} hits`}
        </h3>
        {one ? (
          <>
            <NumberField
              label="Velocity"
              value={one.hit.velocity}
              unit=""
              min={1}
              max={127}
              digits={0}
              step={1}
              reset={100}
              onChange={(value, g) => edit([{ op: "hit.velocity", hits: sel.hits, value }], g)}
            />
            <NumberField
              label="Nudge"
              value={one.hit.nudge_ms}
              unit="ms"
              min={-200}
              max={200}
              step={1}
              reset={0}
              onChange={(value, g) => edit([{ op: "hit.nudge", hits: sel.hits, value }], g)}
            />
            <NumberField
              label="Pitch"
              value={one.hit.semitones}
              unit="st"
              min={-36}
              max={36}
              digits={0}
              step={1}
              reset={0}
              onChange={(value, g) =>
                edit([{ op: "hit.pitch", hits: sel.hits, value: Math.round(value) }], g)
              }
            />
          </>
        ) : (
          <p className="text-[12px] text-muted">
            Click a row to place a hit: height is velocity. Drag a head up or down, or along; with Alt to
            nudge.
          </p>
        )}
      </section>
    </aside>
  );
}
