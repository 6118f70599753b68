// The keys of the feel.
import { useRef } from "react";
import type { State } from "../../api/client";
import { useKeys } from "../../keys/useKeys";
import { monitor, useMonitor } from "../../live/monitor";
import { tapped } from "../../parts/Transport";
import { useProject } from "../../state/project";
import { chosen, useSelection } from "../../state/selection";
import { barTicks } from "../../state/ticks";

/** The bars that a selection lies in, as first and how many; none where nothing is selected. */
export function barsOf(state: State, hits: { voice: string; hit: string }[]): [number, number][] {
  const bar = barTicks(state.document.groove.meter);
  const at = chosen(state, hits).map((c) => Math.floor(c.hit.tick / bar));
  if (at.length === 0) return [[1, state.document.groove.bars]];
  const from = Math.min(...at);
  return [[from + 1, Math.min(Math.max(...at), state.document.groove.bars - 1) - from + 1]];
}

/** The keys that act on the whole groove. */
export function useFeelKeys(state: State) {
  const edit = useProject((p) => p.edit);
  const taps = useRef<number[]>([]);
  useKeys("feel", {
    straight: () => edit([{ op: "feel.straight" }]),
    back: (e) => edit([{ op: "feel.pull", by_ms: e.shiftKey ? -5 : 5 }]),
    tap: (e) => {
      const bpm = tapped(taps.current, e.timeStamp);
      if (bpm) edit([{ op: "number.set", at: "tempo/bpm", value: bpm }], "tapping");
    },
    loop: () => {
      const { loop } = useMonitor.getState();
      const [found] = barsOf(state, useSelection.getState().hits);
      const bar = barTicks(state.document.groove.meter);
      monitor.setLoop(
        loop || !found ? null : { from: (found[0] - 1) * bar, to: (found[0] - 1 + found[1]) * bar },
      );
    },
  });
}
