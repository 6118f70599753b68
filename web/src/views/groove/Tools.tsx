// What is drawn with and on: bars, grid, tools, selecting, the whole pattern.
import type { State } from "../../api/client";
import { Choice } from "../../parts/Choice";
import { Menu } from "../../parts/Menu";
import { NumberField } from "../../parts/NumberField";
import { useProject } from "../../state/project";
import { useInfo } from "../../state/queries";
import { useSelection } from "../../state/selection";
import { gridName } from "./layout";
import { SelectPanel } from "./SelectPanel";
import { barsOf } from "./useFeelKeys";

export function Tools({ state }: { state: State }) {
  const edit = useProject((p) => p.edit);
  const sel = useSelection();
  const limits = useInfo().data?.limits;
  const g = state.document.groove;
  return (
    <div className="mb-1.5 flex flex-wrap items-center gap-x-2.5 gap-y-1.5">
      <div className="w-[100px]">
        <NumberField
          compact
          label="Bars"
          value={g.bars}
          unit=""
          min={1}
          max={limits?.bars ?? g.bars}
          digits={0}
          step={1}
          log
          onChange={(v, gesture) =>
            Math.round(v) !== g.bars && edit([{ op: "groove.bars", bars: Math.round(v) }], gesture)
          }
        />
      </div>
      <label className="flex items-center gap-1.5 text-sm">
        grid
        <select
          className="press num h-7 px-1.5"
          value={g.grid}
          onChange={(e) => edit([{ op: "groove.grid", grid: Number(e.target.value) }])}
        >
          {(limits?.grids ?? [g.grid]).map((n) => (
            <option key={n} value={n}>
              {gridName(n)}
            </option>
          ))}
        </select>
      </label>
      <label className="flex items-center gap-1.5 text-sm" title="Snap finer than the grid">
        Snap
        <select
          className="press num h-7 px-1.5"
          aria-label="Draw on"
          value={sel.snap}
          onChange={(e) => sel.set({ snap: Number(e.target.value) })}
        >
          <option value={0}>grid</option>
          {(limits?.grids ?? []).map((n) => (
            <option key={n} value={n}>
              {gridName(n)}
            </option>
          ))}
        </select>
      </label>
      <Choice
        label="Tool"
        value={sel.tool}
        options={[
          ["draw", "Draw", "Click places a hit"],
          ["select", "Select", "Drag selects hits"],
          ["roll", "Roll", "Drag draws a roll: how long, and how loud its end"],
        ]}
        onChange={(tool) => sel.set({ tool })}
      />
      {sel.tool === "roll" && (
        <select
          className="press num h-7 px-1.5"
          aria-label="Strokes a beat"
          value={sel.rate}
          onChange={(e) => sel.set({ rate: Number(e.target.value) })}
        >
          {[6, 8, 12, 16, 24].map((n) => (
            <option key={n} value={n}>
              {n} a beat
            </option>
          ))}
        </select>
      )}
      <SelectPanel state={state} />
      <Menu
        label="Pattern"
        items={[
          {
            text: "Half time",
            hint: "Twice as long",
            onClick: () => edit([{ op: "groove.times", times: 2 }]),
          },
          {
            text: "Double time",
            hint: "Half as long",
            onClick: () => edit([{ op: "groove.times", times: 0.5 }]),
          },
          ...barsOf(state, sel.hits).map(([from, bars]) => ({
            text:
              bars === 1 ? `Duplicate bar ${from} twice` : `Play bars ${from} to ${from + bars - 1} twice`,
            hint: "Later bars move right",
            onClick: () => edit([{ op: "groove.repeat", from, bars, times: 2 }]),
          })),
          { text: "Clear all rows", onClick: () => edit([{ op: "groove.clear" }]) },
        ]}
      />
    </div>
  );
}
