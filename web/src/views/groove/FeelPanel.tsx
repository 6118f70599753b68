// Right of the groove: the feel of the whole and of the selected voice, with
// what the reference has beside each value.
import type { Row, State } from "../../api/client";
import { Choice } from "../../parts/Choice";
import { num } from "../../parts/format";
import { ParamField } from "../../parts/ParamField";
import { useParam } from "../../state/numbers";
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

type FeelProps = Omit<React.ComponentProps<typeof ParamField>, "param"> & {
  id: string;
  table: "feel" | "voice_feel" | "hit";
};

function Feel({ id, table, ...more }: FeelProps) {
  const param = useParam(table, id);
  return param && <ParamField param={param} {...more} />;
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
  const at = `groove/feel/${voice.id}`;
  const set = (number: string) => (value: number, gesture: string) =>
    edit([{ op: "hit.set", hits: sel.hits, number, value }], gesture);
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
        <h3 className="text-[14px]">{voice.name}</h3>
        <Feel id="lean_ms" table="voice_feel" at={at} value={vf?.lean_ms ?? 0} hint="Late is positive" />
        <Beside row={row(`Lean.${voice.family}`)} />
        <Feel
          id="scatter_ms"
          table="voice_feel"
          at={at}
          value={vf?.scatter_ms ?? 0}
          hint="Random, the same on every render"
        />
        <Beside row={row(`Scatter.${voice.family}`)} />
        <Feel id="velocity_scatter" table="voice_feel" at={at} value={vf?.velocity_scatter ?? 0} step={1} />
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
    </aside>
  );
}
