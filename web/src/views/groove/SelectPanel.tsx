// Selecting by a rule: whose hits, on which steps, how loud.
import { useCallback, useRef, useState } from "react";
import type { State } from "../../api/client";
import { Choice } from "../../parts/Choice";
import { NumberField } from "../../parts/NumberField";
import { useAway } from "../../parts/useAway";
import { laneOf, useSelection } from "../../state/selection";
import { barTicks } from "../../state/ticks";
import { everySecondBar, hitsByRule, hitsLike, type Rule, type StepClass } from "./select";

export function SelectPanel({ state }: { state: State }) {
  const sel = useSelection();
  const [open, setOpen] = useState(false);
  const [rule, setRule] = useState<Omit<Rule, "voice"> & { all: boolean }>({
    all: false,
    steps: "any",
    from: 1,
    to: 127,
  });
  const box = useRef<HTMLDivElement>(null);
  useAway(
    box,
    open,
    useCallback(() => setOpen(false), []),
  );
  const pick = (change: Partial<typeof rule>) => {
    const next = { ...rule, ...change };
    if (next.from > next.to) next[change.from !== undefined ? "to" : "from"] = change.from ?? change.to ?? 1;
    setRule(next);
    const { all, ...r } = next;
    sel.set({ hits: hitsByRule(state, { ...r, voice: all ? "" : sel.voice }) });
  };
  const name = state.document.kit.voices.find((v) => v.id === sel.voice)?.name ?? "this row";
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: Escape belongs to the panel inside
    <div
      ref={box}
      className="relative"
      onKeyDown={(e) => {
        if (e.key !== "Escape" || !open) return;
        e.stopPropagation();
        setOpen(false);
      }}
    >
      <button
        type="button"
        className="press px-2.5"
        aria-expanded={open}
        title="Select by step and by velocity"
        onClick={() => {
          setOpen(!open);
          if (!open) pick({});
        }}
      >
        Select matching…
      </button>
      {open && (
        <section
          aria-label="Select by rule"
          className="absolute top-9 right-0 z-30 flex w-[330px] flex-col gap-2 rounded-xl border border-line bg-base-100 p-3 shadow-lg"
        >
          <Choice
            label="Whose hits"
            value={rule.all ? "all" : "one"}
            options={[
              ["one", name],
              ["all", "All rows"],
            ]}
            onChange={(v) => pick({ all: v === "all" })}
          />
          <Choice
            label="Which steps"
            value={rule.steps}
            options={[
              ["any", "Any step"],
              ["beats", "Beats"],
              ["offbeats", "Off-beats"],
              ["between", "Between"],
            ]}
            onChange={(steps) => pick({ steps: steps as StepClass })}
          />
          <div className="grid grid-cols-2 gap-4">
            {(["from", "to"] as const).map((end) => (
              <NumberField
                key={end}
                compact
                label={end === "from" ? "velocity from" : "to"}
                value={rule[end]}
                unit=""
                min={1}
                max={127}
                digits={0}
                step={1}
                reset={end === "from" ? 1 : 127}
                onChange={(v) => pick({ [end]: Math.round(v) })}
              />
            ))}
          </div>
          <div className="flex gap-1">
            <button
              type="button"
              className="press h-7 px-2 text-[12px]"
              title="What is like the hit at the cursor (L on the row)"
              onClick={() => {
                const at = laneOf(state, sel.voice).find((h) => h.tick === sel.tick);
                if (at) sel.set({ hits: hitsLike(state, sel.voice, at.id) });
              }}
            >
              Like the cursor's
            </button>
            <button
              type="button"
              className="press h-7 px-2 text-[12px]"
              title="Of what is selected (Shift L on the row)"
              disabled={sel.hits.length === 0}
              onClick={() => {
                const { meter } = state.document.groove;
                sel.set({ hits: everySecondBar(state, sel.hits, barTicks(meter)) });
              }}
            >
              Every second bar
            </button>
          </div>
          <p className="text-[12px] text-muted" role="status">
            <span className="num">{sel.hits.length}</span> selected; velocity, nudge and pitch at the right
            act on all of them.
          </p>
        </section>
      )}
    </div>
  );
}
