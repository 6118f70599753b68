// The numbers of the selected hits.
import type { State } from "../../api/client";
import { useProject } from "../../state/project";
import { chosen, useSelection } from "../../state/selection";
import { Feel } from "./FeelParts";

export function HitNumbers({ state }: { state: State }) {
  const edit = useProject((p) => p.edit);
  const sel = useSelection();
  const picked = chosen(state, sel.hits);
  const one = picked[0];
  const set = (number: string) => (value: number, gesture: string) =>
    edit([{ op: "hit.set", hits: sel.hits, number, value }], gesture);
  return (
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
          Click a row to place a hit: height is velocity. Drag a head up or down, or along; with Alt to nudge.
        </p>
      )}
    </section>
  );
}
