// Above the rows: the groove's name, its variations, whether the view follows, the tools.
import { memo } from "react";
import type { State } from "../../api/client";
import { TextBox } from "../../parts/TextBox";
import { useProject } from "../../state/project";
import { barTicks } from "../../state/ticks";
import { setFollow, useViews } from "../../time/useTimeView";
import { Tools } from "./Tools";
import { VariationBar } from "./VariationBar";

export const Head = memo(function Head({ state }: { state: State }) {
  const edit = useProject((p) => p.edit);
  const follow = useViews((v) => v.follow);
  return (
    <>
      <div className="mb-1.5 flex flex-wrap items-center gap-x-3 gap-y-1.5">
        <h1>
          <TextBox
            label="Name of the groove"
            value={state.document.groove.name}
            width={120}
            className="font-display text-xl! font-semibold"
            onCommit={(name) => name !== "" && edit([{ op: "groove.name", name }])}
          />
        </h1>
        <VariationBar state={state} />
        <span className="grow" />
        <span className="text-xs text-muted">{cycleText(state)}</span>
        <button
          type="button"
          className="press h-7 px-2"
          aria-pressed={follow}
          title="Keep what plays in sight (F)"
          onClick={() => setFollow(!follow)}
        >
          Follow
        </button>
      </div>
      <Tools state={state} />
    </>
  );
});

/** After how many bars everything is as at the beginning, reported but never unrolled. */
function cycleText(state: State): string {
  const { groove } = state.document;
  const bar = barTicks(groove.meter);
  const bars = state.cycle_ticks / bar;
  if (groove.lanes.every((l) => l.steps === 0)) return "";
  if (bars > 1e6) return "the lanes never realign";
  return `full cycle ${bars % 1 === 0 ? bars : bars.toFixed(2)} bars`;
}
