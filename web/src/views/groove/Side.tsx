// Beside the rows: the feel, the selected hits, or the selected row.
import { memo } from "react";
import type { State } from "../../api/client";
import { Choice } from "../../parts/Choice";
import { chosen, useSelection } from "../../state/selection";
import { FeelPanel } from "./FeelPanel";
import { HitPanel } from "./HitPanel";
import { usePanels } from "./panels";
import { RowPanel } from "./RowPanel";

export const Side = memo(function Side({ state }: { state: State }) {
  const panels = usePanels();
  const hits = useSelection((s) => s.hits);
  const picked = chosen(state, hits).length;
  return (
    <aside
      className="flex w-[268px] shrink-0 flex-col gap-2 overflow-y-auto border-l border-line bg-base-200 px-4 py-2"
      aria-label="Feel, hits and row"
    >
      <div className="shrink-0">
        <Choice
          label="At the right"
          value={panels.right}
          options={[
            ["feel", "Feel"],
            ["hits", picked > 0 ? `Hits ${picked}` : "Hits"],
            ["row", "Row"],
          ]}
          onChange={(right) => panels.set({ right })}
        />
      </div>
      {panels.right === "feel" && <FeelPanel state={state} />}
      {panels.right === "hits" && <HitPanel state={state} />}
      {panels.right === "row" && <RowPanel state={state} />}
    </aside>
  );
});
