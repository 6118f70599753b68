// Selecting by a rule: whose hits, on which steps, how loud.
import * as Ariakit from "@ariakit/react";
import { useState } from "react";
import type { State } from "../../api/client";
import { Choice } from "../../parts/Choice";
import { popup } from "../../parts/Menu";
import { NumberField } from "../../parts/NumberField";
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
  const pick = (change: Partial<typeof rule>) => {
    const next = { ...rule, ...change };
    if (next.from > next.to) next[change.from !== undefined ? "to" : "from"] = change.from ?? change.to ?? 1;
    setRule(next);
    const { all, ...r } = next;
    sel.set({ hits: hitsByRule(state, { ...r, voice: all ? "" : sel.voice }) });
  };
  const name = state.document.kit.voices.find((v) => v.id === sel.voice)?.name ?? "this row";
  return (
    <Ariakit.PopoverProvider
      placement="bottom-end"
      open={open}
      setOpen={(now) => {
        setOpen(now);
        if (now) pick({});
      }}
    >
      <Ariakit.PopoverDisclosure className="press px-2.5" title="Select by step and by velocity">
        Select matching…
      </Ariakit.PopoverDisclosure>
      <Ariakit.Popover
        portal
        unmountOnHide
        gutter={4}
        aria-label="Select by rule"
        className={`z-40 flex w-[330px] flex-col gap-2 ${popup} p-3`}
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
            className="press h-7 px-2 text-xs"
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
            className="press h-7 px-2 text-xs"
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
        <p className="text-xs text-muted" role="status">
          <span className="num">{sel.hits.length}</span> selected; velocity, nudge and pitch at the right act
          on all of them.
        </p>
      </Ariakit.Popover>
    </Ariakit.PopoverProvider>
  );
}
